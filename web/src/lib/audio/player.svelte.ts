/** The tray's state: what is poured, what sounds, where it stands. Gains and lags come from the server. */
import type { Poured, Tray } from '../api/client';
import { notices } from '../notices.svelte';
import { Bedside } from './bedside.svelte';
import { Deck } from './deck.svelte';
import { voices } from './load';
import { Manner } from './manner.svelte';
import { linear, spanOf, tidyLoop, type Loop, type Span } from './timeline';

class Player extends Deck {
	tray = $state.raw<Tray | null>(null);
	/** Whose voice sounds: the key of a take. */
	heard = $state<string | null>(null);
	loaded = $state(0);
	loop = $state<Loop | null>(null);
	span = $state.raw<Span>({ origin_s: 0, length_s: 0 });
	readonly manner = new Manner();
	readonly bed = new Bedside();
	#beforeBypass: string | null = null;
	#regain: ReturnType<typeof setTimeout> | undefined;

	protected override get filled() {
		return this.takes.length > 0;
	}

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
		if (!this.manner.plain) await this.asRecorded();
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
		const wasPlaying = this.playing;
		const same = this.pours(of, owner, key);
		this.loaded = 0;
		await this.bring(async (engine, late) => {
			const tray = await this.#ask(of, owner, key);
			if (late()) return;
			const span = spanOf(tray.takes);
			const takes = await voices(engine.context, tray.takes, span, () => this.loaded++);
			if (late()) return;
			if (!same) {
				this.loop = null;
				engine.setLoop(null);
				if (this.tray) engine.seek(0);
			}
			this.tray = tray;
			this.span = span;
			this.heard = this.#choose(tray, contender);
			const bed = await this.bed.voice(engine.context, tray, span);
			if (late()) return;
			engine.load(
				(bed ? [...takes, bed] : takes).map((one) => ({ ...one, gain: one.gain * this.bed.room })),
				this.heard
			);
			engine.setBeside(this.bed.gains);
			if ((play || wasPlaying) && !engine.playing && takes.length) await engine.play();
			this.follow();
		});
		if (this.loading) return;
		// A contender without a take there has no tone to give.
		if (this.tray?.tone_of == null) this.manner.tone = null;
		if (this.tray?.target == null) this.manner.target = null;
	}

	/** What is looped counts in seconds of the reference. */
	#ask(of: Tray['of'], owner: number, key: string): Promise<Tray> {
		const [loop, from] = [this.loop, this.span.origin_s];
		const looped =
			loop && this.pours(of, owner, key) ? { start_s: from + loop.start_s, end_s: from + loop.end_s } : null;
		return this.manner.ask(of, owner, key, looped);
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
		this.made?.setBeside(this.bed.gains);
	}

	/** All takes in the tone of the contender that sounds; again, and all are as they were recorded. */
	async toggleTone() {
		const tray = this.tray;
		const contender = this.sounding?.contender_id;
		if (this.manner.tone) this.manner.asRecorded();
		else if (tray?.of === 'flight' && contender != null) this.manner.inTone(tray.owner_id, contender);
		else return tray && notices.say('Only takes of a flight can be brought to one tone.');
		await this.#again();
	}

	/** Pour a test with all takes in the tone of one of its contenders. */
	async pourToned(flight: number, test: number, contender: number) {
		this.manner.inTone(flight, contender);
		await this.#load('flight', flight, String(test), undefined, true);
	}

	/** The takes of the flight alone, as they were recorded. */
	async asRecorded() {
		this.manner.asRecorded();
		await this.#again();
	}

	/** Pour a test with a sound that somebody is after beside its takes. */
	async pourWithTarget(flight: number, test: number, bed: number) {
		this.manner.withTarget(flight, bed);
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

	/** The tray again after takes, gains or lags may have changed on the server. */
	async refresh() {
		if (!this.tray || this.loading) return;
		const { of, owner_id, poured } = this.tray;
		const fresh = await this.#ask(of, owner_id, poured.key).catch(() => null);
		if (!fresh) return;
		const shape = (tray: Tray) => JSON.stringify(tray.takes.map((t) => [t.key, t.url, t.gain_db, t.lag_s, t.name]));
		if (shape(fresh) === shape(this.tray)) this.tray = fresh;
		else await this.#load(of, owner_id, poured.key);
	}

	hear(key: string) {
		if (!this.takes.some((take) => take.key === key)) return;
		this.heard = key;
		this.#beforeBypass = null;
		this.made?.hear(key);
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

	override seek(to: number) {
		super.seek(Math.min(Math.max(0, to), Math.max(0, this.span.length_s - 0.01)));
	}

	override back() {
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
		this.made?.setLoop(this.loop ? { ...this.loop } : null);
		this.position = this.made?.position ?? this.position;
		if (this.manner.school === 'by_ear') {
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
		if (!this.manner.plain) return notices.say('Here all are equally loud.');
		this.manner.nextSchool();
		await this.#freshGains();
	}

	/** The gains again: of another school, or over another loop. */
	async #freshGains() {
		if (!this.tray) return;
		const { of, owner_id, poured } = this.tray;
		try {
			const tray = await this.#ask(of, owner_id, poured.key);
			this.tray = tray;
			this.made?.setGains(new Map(tray.takes.map((take) => [take.key, linear(take.gain_db) * this.bed.room])));
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
	override close() {
		this.pause();
		this.made?.load([], null);
		this.tray = null;
		this.manner.asRecorded();
		this.loop = null;
		this.position = 0;
	}
}

export const player = new Player();
