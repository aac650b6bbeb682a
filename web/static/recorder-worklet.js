/** Hands over what the input brings, sample for sample, a tenth of a second at a time. Nothing is processed. */
class Recorder extends AudioWorkletProcessor {
	constructor() {
		super();
		this.parts = [];
		this.frames = 0;
		this.size = Math.round(sampleRate / 10);
	}

	process(inputs) {
		const input = inputs[0];
		if (input && input.length) {
			this.parts.push(input.map((channel) => channel.slice()));
			this.frames += input[0].length;
			if (this.frames >= this.size) {
				this.port.postMessage({ parts: this.parts, frame: currentFrame });
				this.parts = [];
				this.frames = 0;
			}
		}
		return true;
	}
}

registerProcessor('cata-recorder', Recorder);
