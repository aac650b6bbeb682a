/** Takes as audio buffers on the common timeline, all of one length, so that they run and loop in step. */
import type { Poured } from '../api/client';
import type { Voice } from './engine';
import { firstSample, linear, spanOf, type Span } from './timeline';

const decoded = new Map<string, Promise<AudioBuffer>>();
const KEPT = 14;

async function fetchAndDecode(context: BaseAudioContext, url: string): Promise<AudioBuffer> {
	const response = await fetch(url);
	if (!response.ok) {
		const detail = await response.json().catch(() => null);
		throw new Error(detail?.detail ?? `the take could not be loaded (${response.status})`);
	}
	return context.decodeAudioData(await response.arrayBuffer());
}

/** A take's samples, decoded once while it is among the last that were poured. */
export function decode(context: BaseAudioContext, url: string): Promise<AudioBuffer> {
	const known = decoded.get(url);
	if (known) {
		decoded.delete(url);
		decoded.set(url, known);
		return known;
	}
	const fresh = fetchAndDecode(context, url);
	decoded.set(url, fresh);
	fresh.catch(() => decoded.delete(url));
	for (const old of decoded.keys()) {
		if (decoded.size <= KEPT) break;
		decoded.delete(old);
	}
	return fresh;
}

/** Takes as voices on one timeline, by their keys; `each` is called whenever one has come. */
export function voices(
	context: BaseAudioContext,
	takes: readonly Poured[],
	span = spanOf(takes),
	each: () => void = () => {}
): Promise<Voice[]> {
	const bring = async (take: Poured) => {
		const buffer = await decode(context, take.url);
		each();
		return { id: take.key, buffer: align(context, buffer, take, span), gain: linear(take.gain_db) };
	};
	return Promise.all(takes.map(bring));
}

/** The take cut or padded to the timeline; the decoded buffer itself where nothing has to move. */
export function align(context: BaseAudioContext, buffer: AudioBuffer, take: Poured, span: Span): AudioBuffer {
	const rate = buffer.sampleRate;
	const first = firstSample(take, span, rate);
	const length = Math.max(1, Math.round(span.length_s * rate));
	if (first === 0 && buffer.length === length) return buffer;
	const out = context.createBuffer(buffer.numberOfChannels, length, rate);
	for (let channel = 0; channel < buffer.numberOfChannels; channel++) {
		const part = buffer.getChannelData(channel).subarray(first, first + length);
		out.copyToChannel(part, channel);
	}
	return out;
}

/** A recording over and over, as long as the timeline. */
export function repeated(context: BaseAudioContext, buffer: AudioBuffer, span: Span): AudioBuffer {
	const length = Math.max(1, Math.round(span.length_s * buffer.sampleRate));
	const out = context.createBuffer(buffer.numberOfChannels, length, buffer.sampleRate);
	for (let channel = 0; channel < buffer.numberOfChannels; channel++) {
		const from = buffer.getChannelData(channel);
		for (let at = 0; at < length; at += from.length) out.copyToChannel(from.subarray(0, length - at), channel, at);
	}
	return out;
}
