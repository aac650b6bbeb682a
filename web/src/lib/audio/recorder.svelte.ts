/**
 * Recording from an audio interface at full quality: no echo cancelling, no noise suppression, no automatic gain.
 * A take is uploaded the moment it is finished; one that could not be sent is kept and sent again.
 */
import { BROWSER_HEADER, browserName } from '$lib/api/browser';
import { api, got, Problem, queries } from '$lib/api/client';
import { wav } from './wav';

export type Input = 'both' | 'left' | 'right';
type Chunk = { parts: Float32Array[][]; frame: number };
type Unsent = { flight: number; name: string; planned: number | null; body: Blob };

const STORE = 'cata-latency-ms';
const LEAD_IN_S = 0.6;
const LATENCY_PLAYED_AT_S = 0.5;
const LATENCY_RECORDED_S = 2.5;
const BEATS = 4;

class RecorderState {
	ready = $state(false);
	recording = $state(false);
	counting = $state(0);
	seconds = $state(0);
	peak = $state(0);
	over = $state(false);
	channels = $state(0);
	rate = $state(0);
	input = $state<Input>('left');
	latencyMs = $state<number | null>(null);
	unsent = $state<Unsent[]>([]);
	sending = $state(0);
	devices = $state<MediaDeviceInfo[]>([]);

	#context: AudioContext | null = null;
	#stream: MediaStream | null = null;
	#chunks: Chunk[] = [];
	#keeping = false;
	#startFrame = 0;
	#heldUntil = 0;

	constructor() {
		try {
			const known = localStorage.getItem(STORE);
			this.latencyMs = known === null ? null : Number(known);
		} catch {
			this.latencyMs = null;
		}
	}

	/** Ask for the input and begin to listen; nothing is kept yet. */
	async open(deviceId?: string) {
		this.close();
		const exact = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
		try {
			this.#stream = await navigator.mediaDevices.getUserMedia({
				audio: { ...exact, channelCount: { ideal: 2 }, ...(deviceId ? { deviceId: { exact: deviceId } } : {}) }
			});
		} catch {
			throw new Problem('No input: allow this page to use the audio interface, and see that it is plugged in.');
		}
		// At the interface's own rate nothing is resampled on the way.
		const rate = this.#stream.getAudioTracks()[0]?.getSettings().sampleRate;
		this.#context = new AudioContext(rate ? { sampleRate: rate } : {});
		await this.#context.audioWorklet.addModule('/recorder-worklet.js');
		const source = this.#context.createMediaStreamSource(this.#stream);
		const node = new AudioWorkletNode(this.#context, 'cata-recorder', {
			numberOfOutputs: 0,
			channelCountMode: 'max'
		});
		node.port.onmessage = (event) => this.#take(event.data as Chunk);
		source.connect(node);
		await this.#context.resume();
		this.rate = this.#context.sampleRate;
		this.devices = (await navigator.mediaDevices.enumerateDevices()).filter((one) => one.kind === 'audioinput');
		this.ready = true;
	}

	close() {
		this.#stream?.getTracks().forEach((track) => track.stop());
		void this.#context?.close();
		this.#context = this.#stream = null;
		this.ready = this.recording = this.#keeping = false;
		this.counting = 0;
	}

	#take(chunk: Chunk) {
		this.channels = chunk.parts[0]?.length ?? 0;
		let peak = 0;
		for (const part of chunk.parts)
			for (const channel of part) for (const sample of channel) peak = Math.max(peak, Math.abs(sample));
		if (peak > this.peak) this.peak = peak;
		if (peak >= 0.9999) this.over = true;
		// The meter holds a peak for a moment, then falls to what sounds now.
		if (chunk.frame > this.#heldUntil) {
			this.peak = peak;
			this.#heldUntil = chunk.frame + this.rate / 4;
		}
		if (!this.#keeping) return;
		this.#chunks.push(chunk);
		this.seconds = Math.max(0, (chunk.frame - this.#startFrame) / this.rate);
	}

	/** Count in at a tempo, then record until stopped. The count is kept out of the take, its last moment is the lead-in. */
	async start(bpm: number) {
		const context = this.#context;
		if (!context || this.recording) return;
		this.recording = true;
		this.over = false;
		this.seconds = 0;
		this.#chunks = [];
		this.#keeping = true;
		const beat = 60 / bpm;
		const begin = context.currentTime + 0.15;
		for (let i = 0; i < BEATS; i++) this.#click(begin + i * beat, i === 0);
		// Clicks are heard late by the output's share of the round trip and played to late by the player's ear: both are
		// in the measured latency.
		const start = begin + BEATS * beat + (this.latencyMs ?? 0) / 1000;
		this.#startFrame = Math.round(start * this.rate);
		for (let i = 0; i < BEATS && this.recording; i++) {
			this.counting = BEATS - i;
			await new Promise((done) => setTimeout(done, (begin + (i + 1) * beat - context.currentTime) * 1000));
		}
		this.counting = 0;
	}

	#click(at: number, accent: boolean) {
		const context = this.#context!;
		const oscillator = new OscillatorNode(context, { frequency: accent ? 1600 : 1200 });
		const gain = new GainNode(context, { gain: 0 });
		gain.gain.setValueAtTime(0.25, at);
		gain.gain.exponentialRampToValueAtTime(0.001, at + 0.05);
		oscillator.connect(gain).connect(context.destination);
		oscillator.start(at);
		oscillator.stop(at + 0.06);
	}

	/** Stop; the take, or null where it was stopped before it began. */
	stop(): Blob | null {
		if (!this.recording) return null;
		this.recording = this.#keeping = false;
		this.counting = 0;
		const channels = this.#cut(this.#startFrame - Math.round(LEAD_IN_S * this.rate));
		this.#chunks = [];
		return channels[0] && channels[0].length > this.rate * (LEAD_IN_S + 0.3) ? wav(channels, this.rate) : null;
	}

	/** The chosen channels from a frame on. */
	#cut(from: number): Float32Array[] {
		const parts = this.#chunks.flatMap((chunk) => chunk.parts);
		const last = this.#chunks.at(-1);
		const total = parts.reduce((sum, part) => sum + (part[0]?.length ?? 0), 0);
		const first = (last?.frame ?? 0) + 128 - total;
		const wanted = this.channels < 2 ? [0] : this.input === 'both' ? [0, 1] : [this.input === 'left' ? 0 : 1];
		return wanted.map((channel) => {
			const whole = new Float32Array(total);
			let at = 0;
			for (const part of parts) {
				const samples = part[channel] ?? part[0]!;
				whole.set(samples, at);
				at += samples.length;
			}
			return whole.subarray(Math.max(0, from - first));
		});
	}

	/** Send a take to its place; true when it is safe. */
	async send(flight: number, name: string, planned: number | null, body: Blob): Promise<boolean> {
		const unsent: Unsent = { flight, name, planned, body };
		this.sending++;
		try {
			const place = planned === null ? '' : `&planned_id=${planned}`;
			const query = `name=${encodeURIComponent(name)}&lead_in_s=${LEAD_IN_S - 0.1}${place}`;
			let response: Response;
			try {
				response = await fetch(`/api/flights/${flight}/takes?${query}`, {
					method: 'POST',
					headers: { 'content-type': 'application/octet-stream', [BROWSER_HEADER]: browserName },
					body
				});
			} catch {
				throw new Problem('Cata does not answer. The take is kept here and sent when it is back.');
			}
			if (!response.ok) {
				const detail = ((await response.json().catch(() => null)) as { detail?: string } | null)?.detail;
				throw new Problem(`${detail ?? `Cata answered ${response.status}.`} The take is kept here: send it again.`);
			}
			this.unsent = this.unsent.filter((one) => one.body !== body);
			await queries.invalidateQueries();
			return true;
		} catch (error) {
			if (!this.unsent.some((one) => one.body === body)) this.unsent = [...this.unsent, unsent];
			throw error;
		} finally {
			this.sending--;
		}
	}

	/** Send again what could not be sent. */
	async again() {
		for (const one of [...this.unsent]) await this.send(one.flight, one.name, one.planned, one.body);
	}

	/** Measure the round trip: play the slate half a second after the recording starts, and find it in what comes back. */
	async measureLatency(): Promise<string> {
		const context = this.#context;
		if (!context || this.recording) throw new Problem('Open the input first.');
		const tone = await context.decodeAudioData(await (await fetch('/api/slates/1')).arrayBuffer());
		this.#chunks = [];
		this.#keeping = true;
		const begin = context.currentTime + 0.1;
		const source = new AudioBufferSourceNode(context, { buffer: tone });
		source.connect(context.destination);
		source.start(begin + LATENCY_PLAYED_AT_S);
		await new Promise((done) => setTimeout(done, (LATENCY_RECORDED_S + 0.2) * 1000));
		this.#keeping = false;
		const heard = this.#cut(Math.round(begin * this.rate));
		this.#chunks = [];
		const answer = await got(
			api.POST('/api/latency', { body: wav(heard, this.rate) as never, bodySerializer: (body) => body as never })
		);
		if (answer.latency_ms === null) throw new Problem(answer.reason);
		this.latencyMs = answer.latency_ms ?? null;
		try {
			localStorage.setItem(STORE, String(answer.latency_ms));
		} catch {
			// Without storage it is measured again next time.
		}
		return `${answer.latency_ms?.toFixed(1)} ms`;
	}

	/** Play the slate of a take through the output. */
	async slate(number: number, end = false) {
		const context = this.#context ?? new AudioContext();
		const buffer = await context.decodeAudioData(
			await (await fetch(`/api/slates/${number}${end ? '?end=true' : ''}`)).arrayBuffer()
		);
		const source = new AudioBufferSourceNode(context, { buffer });
		source.connect(context.destination);
		source.start();
	}
}

export const recorder = new RecorderState();
