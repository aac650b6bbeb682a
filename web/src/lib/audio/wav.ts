/** A WAV file (32-bit float) of recorded channels. */
export function wav(channels: Float32Array[], rate: number): Blob {
	const frames = channels[0]?.length ?? 0;
	const bytes = frames * channels.length * 4;
	const buffer = new ArrayBuffer(58 + bytes);
	const view = new DataView(buffer);
	const text = (at: number, word: string) => [...word].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)));
	text(0, 'RIFF');
	view.setUint32(4, 50 + bytes, true);
	text(8, 'WAVEfmt ');
	view.setUint32(16, 18, true);
	view.setUint16(20, 3, true);
	view.setUint16(22, channels.length, true);
	view.setUint32(24, rate, true);
	view.setUint32(28, rate * channels.length * 4, true);
	view.setUint16(32, channels.length * 4, true);
	view.setUint16(34, 32, true);
	view.setUint16(36, 0, true);
	// Float files carry a fact chunk with the number of frames.
	text(38, 'fact');
	view.setUint32(42, 4, true);
	view.setUint32(46, frames, true);
	text(50, 'data');
	view.setUint32(54, bytes, true);
	const samples = new Float32Array(frames * channels.length);
	channels.forEach((channel, c) => {
		for (let i = 0; i < frames; i++) samples[i * channels.length + c] = channel[i]!;
	});
	new Uint8Array(buffer, 58).set(new Uint8Array(samples.buffer));
	return new Blob([buffer], { type: 'audio/wav' });
}
