/** Following an engine's clock, frame by frame, for as long as it plays. */
import type { Engine } from './engine';

/** Calls `show` now and with every frame; what comes back ends it. */
export function follow(engine: Engine, show: (engine: Engine) => void): () => void {
	let frame = 0;
	const look = () => {
		show(engine);
		if (engine.playing) frame = requestAnimationFrame(look);
	};
	frame = requestAnimationFrame(look);
	return () => cancelAnimationFrame(frame);
}
