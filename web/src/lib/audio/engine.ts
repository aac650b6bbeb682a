/**
 * The engine of the tray: all takes of a test run together, and what is heard is decided by gains alone. A switch is a
 * 10 ms cross-fade, so the music never restarts. Any other change of time (seek, loop) starts a second set of sources
 * at the right place and cross-fades to it.
 */
import { positionAfter, type Loop } from './timeline';

export const SWITCH_S = 0.01;
const LEAD_S = 0.03;
const MAX_LEAD_S = 1;
/** A few blocks of the audio clock, for what is asked of it now is done with the next. */
const MARGIN_S = 0.01;
/** A short dip where the loop wraps: the wave seldom meets itself there, and a step would click. */
const WRAP_DIP_S = 0.003;
const WRAP_AHEAD_S = 0.5;

/** `pan` from -1, all left, to 1, all right; none where it is not said. */
export type Voice = { id: string; buffer: AudioBuffer; gain: number; pan?: number };
type Running = { bus: GainNode; sources: AudioBufferSourceNode[]; gains: Map<string, GainNode> };
type Scheduled = { running: Running; at: number; from: number; inTime: boolean };

export class Engine {
	readonly context: AudioContext;
	#voices: Voice[] = [];
	#running: Running | null = null;
	#startedAt = 0;
	#startedFrom = 0;
	#loop: Loop | null = null;
	#heard: string | null = null;
	/** What sounds besides what is heard (a bed, a second source), at what gain; negative is turned in polarity. */
	#beside: Record<string, number> = {};
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
	load(voices: Voice[], heard: string | null) {
		this.#voices = voices;
		this.#heard = heard;
		if (this.playing) this.#goOn((position) => position);
	}

	/** Change gains in place (another level school). */
	setGains(gains: Map<string, number>) {
		this.#voices = this.#voices.map((voice) => ({ ...voice, gain: gains.get(voice.id) ?? voice.gain }));
		this.#fade();
	}

	hear(id: string | null) {
		this.#heard = id;
		this.#fade();
	}

	setBeside(gains: Record<string, number>) {
		this.#beside = gains;
		this.#fade();
	}

	async play(from?: number) {
		await this.context.resume();
		const place = from ?? this.#startedFrom;
		this.#start(() => place);
	}

	pause() {
		const at = this.position;
		this.#stop();
		this.#startedFrom = at;
	}

	seek(to: number) {
		if (this.playing) this.#start(() => to);
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
		const before = this.#loop;
		this.#loop = loop;
		this.#start((at) => place(positionAfter(this.#startedFrom, at - this.#startedAt, before)));
	}

	#target(voice: Voice): number {
		return (voice.id === this.#heard ? voice.gain : 0) + voice.gain * (this.#beside[voice.id] ?? 0);
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

	/** Start a new set of sources, all on the same sample, and cross-fade to it. */
	#start(place: (at: number) => number) {
		const old = this.#running;
		// A busy machine may need longer than the lead to set every take going. Those that are late would run behind the
		// others for good, so a set that is not ready in time is put away unheard and a new one is given more time.
		let lead = LEAD_S;
		let set = this.#schedule(lead, place);
		while (!set.inTime && lead < MAX_LEAD_S) {
			for (const source of set.running.sources) source.stop();
			set = this.#schedule((lead *= 2), place);
		}
		const { running, at, from } = set;
		running.bus.connect(this.context.destination);
		if (old) this.#retire(old, at);
		this.#running = running;
		this.#startedAt = at;
		this.#startedFrom = from;
		this.#dippedUntil = at + SWITCH_S;
		const first = running.sources[0];
		if (first) {
			first.onended = () => {
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

	/** Sources for all takes that begin in `lead` seconds, not yet connected; whether that was asked for in time. */
	#schedule(lead: number, place: (at: number) => number): Scheduled {
		const bus = this.context.createGain();
		const sources: AudioBufferSourceNode[] = [];
		const gains = new Map<string, GainNode>();
		for (const voice of this.#voices) {
			const source = this.context.createBufferSource();
			source.buffer = voice.buffer;
			if (this.#loop) {
				source.loop = true;
				source.loopStart = this.#loop.start_s;
				source.loopEnd = this.#loop.end_s;
			}
			const gain = this.context.createGain();
			source.connect(gain);
			if (voice.pan === undefined) gain.connect(bus);
			else gain.connect(new StereoPannerNode(this.context, { pan: voice.pan })).connect(bus);
			sources.push(source);
			gains.set(voice.id, gain);
		}
		const at = this.context.currentTime + lead;
		const from = place(at);
		// The context's clock may stand still while a script runs; the other one does not.
		const asked = performance.now();
		bus.gain.setValueAtTime(0, at);
		bus.gain.linearRampToValueAtTime(1, at + SWITCH_S);
		for (const voice of this.#voices) gains.get(voice.id)?.gain.setValueAtTime(this.#target(voice), at);
		for (const source of sources) source.start(at, from);
		const inTime = this.context.currentTime < at - MARGIN_S && (performance.now() - asked) / 1000 < lead - MARGIN_S;
		return { running: { bus, sources, gains }, at, from, inTime };
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
		setTimeout(() => old.bus.disconnect(), (at - now + SWITCH_S) * 1000 + 200);
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
