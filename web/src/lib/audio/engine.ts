/**
 * The engine of the tray: all takes of a test run together, and what is heard is decided by gains alone. A switch is a
 * 10 ms cross-fade, so the music never restarts. Any other change of time (seek, loop) starts a second set of sources
 * at the right place and cross-fades to it.
 */
import { positionAfter, type Loop } from './timeline';

export const SWITCH_S = 0.01;
const LEAD_S = 0.03;
/** A short dip where the loop wraps: the wave seldom meets itself there, and a step would click. */
const WRAP_DIP_S = 0.003;
const WRAP_AHEAD_S = 0.5;

export type Voice = { id: number; buffer: AudioBuffer; gain: number };
type Running = { bus: GainNode; sources: AudioBufferSourceNode[]; gains: Map<number, GainNode> };

export class Engine {
	readonly context: AudioContext;
	#voices: Voice[] = [];
	#running: Running | null = null;
	#startedAt = 0;
	#startedFrom = 0;
	#loop: Loop | null = null;
	#heard: number | null = null;
	#wrapTimer: ReturnType<typeof setInterval> | null = null;
	#dippedUntil = 0;
	onEnded: () => void = () => {};

	constructor() {
		// 48 kHz is the rate of the listening copies: lags stay exact to the sample.
		this.context = new AudioContext({ latencyHint: 'interactive', sampleRate: 48000 });
	}

	get playing(): boolean {
		return this.#running !== null;
	}

	get position(): number {
		return this.#running ? this.#positionAt(this.context.currentTime) : this.#startedFrom;
	}

	/** Replace the takes; playing goes on from the same place. */
	load(voices: Voice[], heard: number | null) {
		this.#voices = voices;
		this.#heard = heard;
		if (this.playing) this.#goOn((position) => position);
	}

	/** Change gains in place (another level school). */
	setGains(gains: Map<number, number>) {
		this.#voices = this.#voices.map((voice) => ({ ...voice, gain: gains.get(voice.id) ?? voice.gain }));
		this.#fade();
	}

	hear(id: number | null) {
		this.#heard = id;
		this.#fade();
	}

	async play(from?: number) {
		await this.context.resume();
		this.#start(from ?? this.#startedFrom);
	}

	pause() {
		const at = this.position;
		this.#stop();
		this.#startedFrom = at;
	}

	seek(to: number) {
		if (this.playing) this.#start(to);
		else this.#startedFrom = to;
	}

	setLoop(loop: Loop | null) {
		const inside = (at: number) => (loop && (at < loop.start_s || at >= loop.end_s) ? loop.start_s : at);
		if (this.playing) this.#goOn(inside, loop);
		else {
			this.#startedFrom = inside(this.#startedFrom);
			this.#loop = loop;
		}
	}

	dispose() {
		this.#stop();
		void this.context.close();
	}

	#positionAt(time: number): number {
		return positionAfter(this.#startedFrom, time - this.#startedAt, this.#loop);
	}

	/** Start a new set of sources where the old one will be by then, so that nothing jumps. */
	#goOn(place: (position: number) => number, loop = this.#loop) {
		const at = this.context.currentTime + LEAD_S;
		const from = place(this.#positionAt(at));
		this.#loop = loop;
		this.#start(from, at);
	}

	#target(voice: Voice): number {
		return voice.id === this.#heard ? voice.gain : 0;
	}

	#fade() {
		const running = this.#running;
		if (!running) return;
		const now = this.context.currentTime;
		for (const voice of this.#voices) {
			const param = running.gains.get(voice.id)?.gain;
			if (!param) continue;
			param.cancelScheduledValues(now);
			param.setValueAtTime(param.value, now);
			param.linearRampToValueAtTime(this.#target(voice), now + SWITCH_S);
		}
	}

	#start(from: number, at = this.context.currentTime + LEAD_S) {
		const old = this.#running;
		const bus = this.context.createGain();
		bus.gain.setValueAtTime(0, at);
		bus.gain.linearRampToValueAtTime(1, at + SWITCH_S);
		bus.connect(this.context.destination);
		const sources: AudioBufferSourceNode[] = [];
		const gains = new Map<number, GainNode>();
		for (const voice of this.#voices) {
			const source = this.context.createBufferSource();
			source.buffer = voice.buffer;
			if (this.#loop) {
				source.loop = true;
				source.loopStart = this.#loop.start_s;
				source.loopEnd = this.#loop.end_s;
			}
			const gain = this.context.createGain();
			gain.gain.setValueAtTime(this.#target(voice), at);
			source.connect(gain).connect(bus);
			source.start(at, from);
			sources.push(source);
			gains.set(voice.id, gain);
		}
		if (old) this.#retire(old, at);
		const running = { bus, sources, gains };
		this.#running = running;
		this.#startedAt = at;
		this.#startedFrom = from;
		this.#dippedUntil = at + SWITCH_S;
		if (sources[0]) {
			sources[0].onended = () => {
				if (this.#running !== running) return;
				this.#running = null;
				this.#startedFrom = 0;
				this.#stopDips();
				this.onEnded();
			};
		}
		this.#wrapTimer ??= setInterval(() => this.#dipAtWraps(), 100);
		this.#dipAtWraps();
	}

	#retire(old: Running, at: number) {
		const now = this.context.currentTime;
		old.bus.gain.cancelScheduledValues(now);
		old.bus.gain.setValueAtTime(old.bus.gain.value, at);
		old.bus.gain.linearRampToValueAtTime(0, at + SWITCH_S);
		for (const source of old.sources) {
			source.onended = null;
			source.stop(at + SWITCH_S + 0.005);
		}
		setTimeout(() => old.bus.disconnect(), (LEAD_S + SWITCH_S) * 1000 + 200);
	}

	#stop() {
		const old = this.#running;
		this.#running = null;
		this.#stopDips();
		if (old) this.#retire(old, this.context.currentTime);
	}

	#stopDips() {
		if (this.#wrapTimer) clearInterval(this.#wrapTimer);
		this.#wrapTimer = null;
	}

	/** Schedule the dips of the wraps that come within the next half second. */
	#dipAtWraps() {
		const running = this.#running;
		if (!running || !this.#loop) return;
		const length = this.#loop.end_s - this.#loop.start_s;
		const horizon = this.context.currentTime + WRAP_AHEAD_S;
		const firstWrap = this.#startedAt + (this.#loop.end_s - this.#startedFrom);
		const passed = Math.max(0, Math.ceil((this.#dippedUntil - firstWrap) / length + 1e-9));
		for (let wrap = firstWrap + passed * length; wrap < horizon; wrap += length) {
			if (wrap - WRAP_DIP_S <= this.#dippedUntil) continue;
			const gain = running.bus.gain;
			gain.setValueAtTime(1, wrap - WRAP_DIP_S);
			gain.linearRampToValueAtTime(0, wrap);
			gain.linearRampToValueAtTime(1, wrap + WRAP_DIP_S);
			this.#dippedUntil = wrap + WRAP_DIP_S;
		}
	}
}
