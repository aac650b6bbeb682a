/** The tray's state: what is poured, what sounds, where it stands. Gains and lags come from the server. */
import { api, got, type Poured, type School, type Tray } from '../api/client';
import { notices } from '../notices.svelte';
import { Engine, type Voice } from './engine';
import { Bedside } from './bedside.svelte';
import { follow } from './follow';
import { align, decode } from './load';
import { linear, spanOf, tidyLoop, type Loop, type Span } from './timeline';

const SCHOOLS: School[] = ['equal', 'by_ear', 'as_set'];

class Player {
	tray = $state.raw<Tray | null>(null);
	/** Whose voice sounds: the key of a take. */
	heard = $state<string | null>(null);
	playing = $state(false);
	loading = $state(false);
	loaded = $state(0);
	position = $state(0);
	loop = $state<Loop | null>(null);
	school = $state<School>('equal');
	span = $state.raw<Span>({ origin_s: 0, length_s: 0 });
	/** The contender of a flight to whose tone all are brought; null: as they were recorded. */
	tone = $state.raw<{ flight: number; contender: number } | null>(null);
	/** A sound that somebody is after, poured with the takes of a flight. */
	target = $state.raw<{ flight: number; bed: number } | null>(null);
	readonly bed = new Bedside();
	#engine: Engine | null = null;
	#beforeBypass: string | null = null;
	#unfollow = () => {};
	#pouring = 0;
	#regain: ReturnType<typeof setTimeout> | undefined;

	get takes(): Poured[] {
		return this.tray?.takes ?? [];
	}

	get sounding(): Poured | null {
		return this.takes.find((take) => take.key === this.heard) ?? null;
	}

	/** True where this is what is poured: a test of a flight, or a question about an item. */
	pours(of: Tray['of'], owner: number, key: string | number): boolean {
		return this.tray?.of === of && this.tray.owner_id === owner && this.tray.poured.key === String(key);
	}

	/** True where this contender's take sounds, or would. */
	hears(contender: number | null): boolean {
		return contender !== null && this.sounding?.contender_id === contender;
	}

	/** Pour a test; the same contender keeps sounding where it has a take there. */
	async pour(flight: number, test: number, contender?: number, play = false) {
		await this.#pour('flight', flight, String(test), contender, play);
	}

	/** Pour the playing that proves an answer about a measured item. */
	async pourProof(gear: number, key: string, play = false) {
		await this.#pour('gear', gear, key, undefined, play);
	}

	/** Pour the takes of a sentence and loop the place that shows it most, in seconds of the contender's own take. */
	async prove(flight: number, test: number, contender: number, start_s: number, end_s: number) {
		if (this.tone || this.target) await this.asRecorded();
		await this.pour(flight, test, contender, false);
		const take = this.takes.find((one) => one.contender_id === contender);
		if (!take) return;
		const from = Math.max(0, start_s - take.lag_s - this.span.origin_s);
		this.setLoop({ start_s: from, end_s: from + (end_s - start_s) });
		this.seek(from);
		if (!this.playing) await this.toggle();
	}

	/** Another test (or question) of what is poured. */
	async pourOther(key: string) {
		if (this.tray) await this.#pour(this.tray.of, this.tray.owner_id, key, undefined, false);
	}

	async #pour(of: Tray['of'], owner: number, key: string, contender: number | undefined, play: boolean) {
		if (this.pours(of, owner, key) && this.takes.length) {
			const wanted = this.takes.find((take) => take.contender_id === contender);
			if (contender !== undefined && wanted) this.hear(wanted.key);
			if (play && !this.playing) await this.toggle();
			return;
		}
		await this.#load(of, owner, key, contender, play);
	}

	async #load(of: Tray['of'], owner: number, key: string, contender?: number, play = false) {
		const turn = ++this.#pouring;
		const wasPlaying = this.playing;
		const same = this.pours(of, owner, key);
		this.loading = true;
		this.loaded = 0;
		try {
			const tray = await this.#fetch(of, owner, key);
			if (turn !== this.#pouring) return;
			const engine = this.#ready();
			const span = spanOf(tray.takes);
			const voices = await Promise.all(tray.takes.map((take) => this.#voice(engine, take, span)));
			if (turn !== this.#pouring) return;
			if (!same) {
				this.loop = null;
				engine.setLoop(null);
				if (this.tray) engine.seek(0);
			}
			this.tray = tray;
			this.span = span;
			this.heard = this.#choose(tray, contender);
			const bed = await this.bed.voice(engine.context, tray, span);
			if (turn !== this.#pouring) return;
			const all = bed ? [...voices, bed] : voices;
			engine.load(
				all.map((one) => ({ ...one, gain: one.gain * this.bed.room })),
				this.heard
			);
			engine.setBeside(this.bed.gains);
			if ((play || wasPlaying) && !engine.playing && voices.length) await engine.play();
			this.playing = engine.playing;
			this.#tick();
		} catch (error) {
			// A contender without a take there has no tone to give.
			if (this.tray?.tone_of == null) this.tone = null;
			if (this.tray?.target == null) this.target = null;
			notices.fail(error);
		} finally {
			if (turn === this.#pouring) this.loading = false;
		}
	}

	async #voice(engine: Engine, take: Poured, span: Span): Promise<Voice> {
		const buffer = await decode(engine.context, take.url);
		this.loaded++;
		return {
			id: take.key,
			buffer: align(engine.context, buffer, take, span),
			gain: linear(take.gain_db)
		};
	}

	/** Another bed, or another relation to it; what plays goes on. */
	async setBed(bed: number | null, relation_lu = this.bed.relation_lu) {
		this.bed.choose(bed, relation_lu);
		await this.#again();
	}

	/** The take alone, or with the bed. */
	toggleBed() {
		if (!this.bed.laid) {
			if (this.takes.length) notices.say('No bed is chosen: choose one under Listen.');
			return;
		}
		this.bed.sounds = !this.bed.sounds;
		this.#engine?.setBeside(this.bed.gains);
	}

	/** All takes in the tone of the contender that sounds; again, and all are as they were recorded. */
	async toggleTone() {
		const tray = this.tray;
		const contender = this.sounding?.contender_id;
		if (this.tone) this.tone = null;
		else if (tray?.of === 'flight' && contender != null) this.tone = { flight: tray.owner_id, contender };
		else return tray && notices.say('Only takes of a flight can be brought to one tone.');
		await this.#again();
	}

	/** Pour a test with all takes in the tone of one of its contenders. */
	async pourToned(flight: number, test: number, contender: number) {
		this.target = null;
		this.tone = { flight, contender };
		await this.#load('flight', flight, String(test), undefined, true);
	}

	/** The takes of the flight alone, as they were recorded. */
	async asRecorded() {
		this.tone = this.target = null;
		await this.#again();
	}

	/** Pour a test with a sound that somebody is after beside its takes. */
	async pourWithTarget(flight: number, test: number, bed: number) {
		this.tone = null;
		this.target = { flight, bed };
		await this.#load('flight', flight, String(test), undefined, true);
		const target = this.takes.find((take) => take.contender_id == null);
		if (target) this.hear(target.key);
	}

	/** What is poured once more, with what was chosen since. */
	async #again() {
		if (this.tray) await this.#load(this.tray.of, this.tray.owner_id, this.tray.poured.key);
	}

	#choose(tray: Tray, contender?: number): string | null {
		const wanted = tray.takes.find((take) => contender !== undefined && take.contender_id === contender);
		const before = tray.takes.find((take) => take.key === this.heard);
		return (wanted ?? before ?? tray.takes.find((take) => !take.is_bypass) ?? tray.takes[0])?.key ?? null;
	}

	#fetch(of: Tray['of'], owner: number, key: string): Promise<Tray> {
		if (of === 'gear') {
			const path = { gear_id: owner, key };
			// Of a measured item nothing is known by ear.
			const query = { school: this.school === 'by_ear' ? 'equal' : this.school } as const;
			return got(api.GET('/api/gear/{gear_id}/proof/{key}', { params: { path, query } }));
		}
		if (this.tone?.flight === owner) {
			const path = { flight_id: owner, test_id: Number(key) };
			const query = { reference: this.tone.contender };
			return got(api.GET('/api/flights/{flight_id}/together/{test_id}/tray', { params: { path, query } }));
		}
		this.tone = null;
		if (this.target?.flight === owner) {
			const path = { flight_id: owner, test_id: Number(key), bed_id: this.target.bed };
			const at = '/api/flights/{flight_id}/together/{test_id}/target/{bed_id}/tray';
			return got(api.GET(at, { params: { path } }));
		}
		this.target = null;
		// What is looped is what is to be equally loud to the ear: in seconds of the reference.
		const looped = this.school === 'by_ear' && this.loop !== null && this.pours(of, owner, key);
		const from = this.span.origin_s;
		const query = looped
			? { school: this.school, from_s: from + this.loop!.start_s, to_s: from + this.loop!.end_s }
			: { school: this.school };
		const path = { flight_id: owner, test_id: Number(key) };
		return got(api.GET('/api/flights/{flight_id}/tray/{test_id}', { params: { path, query } }));
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
		const { of, owner_id, poured } = this.tray;
		const fresh = await this.#fetch(of, owner_id, poured.key).catch(() => null);
		if (!fresh) return;
		const shape = (tray: Tray) => JSON.stringify(tray.takes.map((t) => [t.key, t.url, t.gain_db, t.lag_s, t.name]));
		if (shape(fresh) === shape(this.tray)) this.tray = fresh;
		else await this.#load(of, owner_id, poured.key);
	}

	async toggle() {
		if (!this.takes.length) return;
		const engine = this.#ready();
		if (engine.playing) engine.pause();
		else await engine.play();
		this.playing = engine.playing;
		this.#tick();
	}

	hear(key: string) {
		if (!this.takes.some((take) => take.key === key)) return;
		this.heard = key;
		this.#beforeBypass = null;
		this.#engine?.hear(key);
	}

	hearNth(n: number) {
		const take = this.takes.find((one) => one.number === n);
		if (take) this.hear(take.key);
	}

	step(by: 1 | -1) {
		if (!this.takes.length) return;
		const index = this.takes.findIndex((take) => take.key === this.heard);
		const next = this.takes[(index + by + this.takes.length) % this.takes.length];
		if (next) this.hear(next.key);
	}

	/** To the bypass take, and with the same key back to what sounded before. */
	bypass() {
		const bypass = this.takes.find((take) => take.is_bypass);
		if (!bypass) {
			if (this.takes.length) notices.say('This flight has no bypass take.');
			return;
		}
		if (this.heard === bypass.key && this.#beforeBypass !== null) this.hear(this.#beforeBypass);
		else {
			const before = this.heard;
			this.hear(bypass.key);
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
		if (this.loop) {
			this.#lastLoop = { of: this.#poured(), loop: this.loop };
			return this.setLoop(null);
		}
		const around = Math.max(0, this.position - 0.2);
		// Off and on again is the same loop, as long as the same is poured.
		const before = this.#lastLoop?.of === this.#poured() ? this.#lastLoop.loop : null;
		this.setLoop(before ?? { start_s: around, end_s: around + 4 });
	}

	#poured = () => (this.tray ? `${this.tray.of} ${this.tray.owner_id} ${this.tray.poured.key}` : '');
	#lastLoop: { of: string; loop: Loop } | null = null;

	setLoop(loop: Loop | null) {
		this.loop = loop && tidyLoop(loop, this.span.length_s);
		this.#engine?.setLoop(this.loop ? { ...this.loop } : null);
		this.position = this.#engine?.position ?? this.position;
		if (this.school === 'by_ear') {
			clearTimeout(this.#regain);
			this.#regain = setTimeout(() => void this.#freshGains(), 300);
		}
	}

	markLoop(end: 'start' | 'end') {
		if (!this.takes.length) return;
		const loop = this.loop ?? { start_s: 0, end_s: this.span.length_s };
		const at = this.position;
		this.setLoop(end === 'start' ? { start_s: at, end_s: Math.max(loop.end_s, at + 0.2) } : { ...loop, end_s: at });
	}

	async nextSchool() {
		if (this.tone || this.target) return notices.say('Here all are equally loud.');
		this.school = SCHOOLS[(SCHOOLS.indexOf(this.school) + 1) % SCHOOLS.length] ?? 'equal';
		await this.#freshGains();
	}

	/** The gains again: of another school, or over another loop. */
	async #freshGains() {
		if (!this.tray) return;
		const { of, owner_id, poured } = this.tray;
		try {
			const tray = await this.#fetch(of, owner_id, poured.key);
			this.tray = tray;
			this.#engine?.setGains(new Map(tray.takes.map((take) => [take.key, linear(take.gain_db) * this.bed.room])));
		} catch (error) {
			notices.fail(error);
		}
	}

	async nextTest() {
		const tray = this.tray;
		if (!tray || tray.others.length < 2) return;
		const index = tray.others.findIndex((one) => one.key === tray.poured.key);
		const next = tray.others[(index + 1) % tray.others.length];
		if (next) await this.pourOther(next.key);
	}

	/** Put the tray away. */
	close() {
		this.#engine?.pause();
		this.#engine?.load([], null);
		this.playing = false;
		this.tray = null;
		this.tone = this.target = null;
		this.loop = null;
		this.position = 0;
	}

	#tick() {
		this.#unfollow();
		this.#unfollow = follow(this.#ready(), (engine) => {
			this.position = engine.position;
			this.playing = engine.playing;
		});
	}
}

export const player = new Player();
