/** The tray's state: what is poured, what sounds, where it stands. Gains and lags come from the server. */
import { api, got, type Poured, type School, type Tray } from '../api/client';
import { notices } from '../notices.svelte';
import { Engine, type Voice } from './engine';
import { align, decode } from './load';
import { spanOf, tidyLoop, type Loop, type Span } from './timeline';

/** The questions about a measured item, in their order. */
export const QUESTION_KEYS = ['most', 'pleasant', 'clean', 'controls', 'strings'];

const linear = (db: number) => 10 ** (db / 20);

class Player {
	tray = $state.raw<Tray | null>(null);
	heard = $state<number | null>(null);
	playing = $state(false);
	loading = $state(false);
	loaded = $state(0);
	position = $state(0);
	loop = $state<Loop | null>(null);
	school = $state<School>('equal');
	span = $state.raw<Span>({ origin_s: 0, length_s: 0 });
	#engine: Engine | null = null;
	#beforeBypass: number | null = null;
	#frame = 0;
	#pouring = 0;

	get takes(): Poured[] {
		return this.tray?.takes ?? [];
	}

	get sounding(): Poured | null {
		return this.takes.find((take) => take.contender_id === this.heard) ?? null;
	}

	/** Pour a test; the same contender keeps sounding where it has a take there. */
	async pour(flightId: number, testId: number, contender?: number, play = false) {
		await this.#pour('flight', flightId, testId, contender, play);
	}

	/** Pour the playing that proves an answer about a measured item: questions are counted from 1. */
	async pourProof(gearId: number, question: number, play = false) {
		await this.#pour('gear', gearId, question, undefined, play);
	}

	/** Another test (or question) of what is poured. */
	async pourOther(testId: number) {
		if (this.tray) await this.#pour(this.tray.of, this.tray.flight_id, testId, undefined, false);
	}

	async #pour(of: Tray['of'], flightId: number, testId: number, contender: number | undefined, play: boolean) {
		const same = this.tray?.of === of && this.tray.flight_id === flightId && this.tray.test.id === testId;
		if (same && this.takes.length) {
			if (contender !== undefined) this.hear(contender);
			if (play && !this.playing) await this.toggle();
			return;
		}
		await this.#load(of, flightId, testId, contender, play);
	}

	async #load(of: Tray['of'], flightId: number, testId: number, contender?: number, play = false) {
		const turn = ++this.#pouring;
		const wasPlaying = this.playing;
		const sameTest = this.tray?.test.id === testId && this.tray.of === of;
		this.loading = true;
		this.loaded = 0;
		try {
			const tray = await this.#fetch(of, flightId, testId);
			if (turn !== this.#pouring) return;
			const engine = this.#ready();
			const span = spanOf(tray.takes);
			const voices = await Promise.all(tray.takes.map((take) => this.#voice(engine, take, span)));
			if (turn !== this.#pouring) return;
			if (!sameTest) {
				this.loop = null;
				engine.setLoop(null);
				if (this.tray) engine.seek(0);
			}
			this.tray = tray;
			this.span = span;
			this.heard = this.#choose(tray, contender);
			engine.load(voices, this.heard);
			if ((play || wasPlaying) && !engine.playing && voices.length) await engine.play();
			this.playing = engine.playing;
			this.#tick();
		} catch (error) {
			notices.fail(error);
		} finally {
			if (turn === this.#pouring) this.loading = false;
		}
	}

	async #voice(engine: Engine, take: Poured, span: Span): Promise<Voice> {
		const buffer = await decode(engine.context, take.url);
		this.loaded++;
		return {
			id: take.contender_id,
			buffer: align(engine.context, buffer, take, span),
			gain: linear(take.gain_db)
		};
	}

	#choose(tray: Tray, wanted?: number): number | null {
		const ids = tray.takes.map((take) => take.contender_id);
		for (const id of [wanted, this.heard]) if (id != null && ids.includes(id)) return id;
		return tray.takes.find((take) => !take.is_bypass)?.contender_id ?? ids[0] ?? null;
	}

	#fetch(of: Tray['of'], flightId: number, testId: number): Promise<Tray> {
		if (of === 'gear') {
			const key = QUESTION_KEYS[testId - 1] ?? 'most';
			const path = { gear_id: flightId, key };
			return got(api.GET('/api/gear/{gear_id}/proof/{key}', { params: { path, query: { school: this.school } } }));
		}
		return got(
			api.GET('/api/flights/{flight_id}/tray/{test_id}', {
				params: { path: { flight_id: flightId, test_id: testId }, query: { school: this.school } }
			})
		);
	}

	#ready(): Engine {
		if (!this.#engine) {
			this.#engine = new Engine();
			this.#engine.onEnded = () => {
				this.playing = false;
				this.position = 0;
			};
		}
		return this.#engine;
	}

	/** The tray again after takes, gains or lags may have changed on the server. */
	async refresh() {
		if (!this.tray || this.loading) return;
		const { of, flight_id, test } = this.tray;
		const fresh = await this.#fetch(of, flight_id, test.id).catch(() => null);
		if (!fresh) return;
		const shape = (tray: Tray) => JSON.stringify(tray.takes.map((t) => [t.take_id, t.url, t.gain_db, t.lag_s, t.name]));
		if (shape(fresh) === shape(this.tray)) this.tray = fresh;
		else await this.#load(of, flight_id, test.id);
	}

	async toggle() {
		if (!this.takes.length) return;
		const engine = this.#ready();
		if (engine.playing) engine.pause();
		else await engine.play();
		this.playing = engine.playing;
		this.#tick();
	}

	hear(contender: number) {
		if (!this.takes.some((take) => take.contender_id === contender)) return;
		this.heard = contender;
		this.#beforeBypass = null;
		this.#engine?.hear(contender);
	}

	hearNth(n: number) {
		const take = this.takes.filter((one) => !one.is_bypass)[n - 1];
		if (take) this.hear(take.contender_id);
	}

	step(by: 1 | -1) {
		if (!this.takes.length) return;
		const index = this.takes.findIndex((take) => take.contender_id === this.heard);
		const next = this.takes[(index + by + this.takes.length) % this.takes.length];
		if (next) this.hear(next.contender_id);
	}

	/** To the bypass take, and with the same key back to what sounded before. */
	bypass() {
		const bypass = this.takes.find((take) => take.is_bypass);
		if (!bypass) {
			if (this.takes.length) notices.say('This flight has no bypass take.');
			return;
		}
		if (this.heard === bypass.contender_id && this.#beforeBypass !== null) this.hear(this.#beforeBypass);
		else {
			const before = this.heard;
			this.hear(bypass.contender_id);
			this.#beforeBypass = before;
		}
	}

	seek(to: number) {
		const at = Math.min(Math.max(0, to), Math.max(0, this.span.length_s - 0.01));
		this.#engine?.seek(at);
		this.position = at;
	}

	back() {
		this.seek(this.loop?.start_s ?? 0);
	}

	toggleLoop() {
		if (!this.takes.length) return;
		const around = Math.max(0, this.position - 0.2);
		this.setLoop(this.loop ? null : { start_s: around, end_s: around + 4 });
	}

	setLoop(loop: Loop | null) {
		this.loop = loop && tidyLoop(loop, this.span.length_s);
		this.#engine?.setLoop(this.loop ? { ...this.loop } : null);
		this.position = this.#engine?.position ?? this.position;
	}

	markLoop(end: 'start' | 'end') {
		if (!this.takes.length) return;
		const loop = this.loop ?? { start_s: 0, end_s: this.span.length_s };
		const at = this.position;
		this.setLoop(end === 'start' ? { start_s: at, end_s: Math.max(loop.end_s, at + 0.2) } : { ...loop, end_s: at });
	}

	async nextSchool() {
		this.school = this.school === 'equal' ? 'as_set' : 'equal';
		if (!this.tray) return;
		const { of, flight_id, test } = this.tray;
		try {
			const tray = await this.#fetch(of, flight_id, test.id);
			this.tray = tray;
			this.#engine?.setGains(new Map(tray.takes.map((take) => [take.contender_id, linear(take.gain_db)])));
		} catch (error) {
			notices.fail(error);
		}
	}

	async nextTest() {
		const tray = this.tray;
		if (!tray || tray.tests.length < 2) return;
		const index = tray.tests.findIndex((test) => test.id === tray.test.id);
		const next = tray.tests[(index + 1) % tray.tests.length];
		if (next) await this.pourOther(next.id);
	}

	/** Put the tray away. */
	close() {
		this.#engine?.pause();
		this.#engine?.load([], null);
		this.playing = false;
		this.tray = null;
		this.loop = null;
		this.position = 0;
	}

	#tick() {
		cancelAnimationFrame(this.#frame);
		const look = () => {
			if (!this.#engine) return;
			this.position = this.#engine.position;
			this.playing = this.#engine.playing;
			if (this.playing) this.#frame = requestAnimationFrame(look);
		};
		this.#frame = requestAnimationFrame(look);
	}
}

export const player = new Player();
