/**
 * A listening page that works from a file: the takes of a flight, cut to one length and at one level, gapless like the
 * tray. What is heard comes as scripts beside this one, for a page that was opened from a disk may fetch nothing.
 */
import { Engine } from '../lib/audio/engine';
import { clock, tidyLoop, type Loop } from '../lib/audio/timeline';

type Take = { key: string; name: string; price: string; none: boolean };
type Test = { name: string; about: string; takes: Take[] };
type Flight = { title: string; question: string; school: string; made: string; blind: boolean; tests: Test[] };

declare global {
	interface Window {
		cataFlight: Flight;
		cataAudio: Record<string, string>;
	}
}

const flight = window.cataFlight;
window.cataAudio ??= {};
const engine = new Engine();
const buffers = new Map<string, Promise<AudioBuffer>>();
let test = 0;
let heard: string | null = null;
let loop: Loop | null = null;
let hidden = flight.blind;
/** Where names are hidden, contenders are shuffled once for this visit, the same in every test. */
const names = [...new Set(flight.tests.flatMap((one) => one.takes.map((take) => take.name)))];
const order = new Map(names.map((name) => [name, hidden ? Math.random() : names.indexOf(name)]));

const takes = () =>
	[...flight.tests[test]!.takes].sort((a, b) => order.get(a.name)! - order.get(b.name)!).map((take) => take);

function element<Tag extends 'h1' | 'p' | 'div' | 'button' | 'input' | 'b' | 'span' | 'small' | 'script'>(
	tag: Tag,
	text = '',
	more: object = {}
): HTMLElementTagNameMap[Tag] {
	const made = document.createElement(tag);
	made.textContent = text;
	return Object.assign(made, more);
}

const main = document.querySelector('main')!;
const tests = element('div', '', { className: 'row' });
const hands = element('div', '', { className: 'row' });
const glasses = element('div', '', { className: 'row' });
const play = element('button', '', { className: 'play' });
const where = element('input', '', { type: 'range', min: '0', step: '0.01', className: 'where' });
const said = element('p', '', { className: 'said' });
const looped = element('button', 'Loop', { className: 'small' });
const reveal = element('button', 'Reveal the names', { className: 'small' });

function read(key: string): Promise<AudioBuffer> {
	const known = buffers.get(key);
	if (known) return known;
	const fresh = new Promise<string>((resolve, reject) => {
		if (window.cataAudio[key]) return resolve(window.cataAudio[key]);
		const script = element('script', '', { src: `audio/${key}.js` });
		script.onload = () => resolve(window.cataAudio[key] ?? '');
		script.onerror = () => reject(new Error(`audio/${key}.js is not beside this page`));
		document.head.append(script);
	}).then((text) => {
		const bytes = Uint8Array.from(atob(text), (one) => one.charCodeAt(0));
		delete window.cataAudio[key];
		return engine.context.decodeAudioData(bytes.buffer);
	});
	buffers.set(key, fresh);
	return fresh;
}

async function pour() {
	const mine = takes();
	const at = test;
	said.textContent = 'Pouring…';
	try {
		const decoded = await Promise.all(mine.map((take) => read(take.key)));
		if (at !== test) return;
		const before = mine.find((take) => take.name === heard) ?? mine.find((take) => !take.none) ?? mine[0];
		heard = before?.name ?? null;
		where.max = String(Math.max(...decoded.map((one) => one.duration)));
		if (engine.position > Number(where.max)) engine.seek(0);
		where.value = String(engine.position);
		engine.load(
			decoded.map((buffer, n) => ({ id: mine[n]!.name, buffer, gain: 1 })),
			heard
		);
	} catch (error) {
		said.textContent = error instanceof Error ? error.message : String(error);
		return;
	}
	show();
}

const label = (take: Take, n: number) => (hidden ? `Glass ${n + 1}` : take.name);

function show() {
	play.textContent = engine.playing ? 'Pause' : 'Play';
	play.setAttribute('aria-label', engine.playing ? 'Pause the music' : 'Play the music');
	looped.setAttribute('aria-pressed', String(loop !== null));
	reveal.hidden = !hidden;
	tests.replaceChildren(
		...flight.tests.map((one, n) => {
			const button = element('button', one.name, { className: 'small', onclick: () => choose(n) });
			button.setAttribute('aria-pressed', String(n === test));
			return button;
		})
	);
	glasses.replaceChildren(
		...takes().map((take, n) => {
			const button = element('button', '', { className: 'glass', onclick: () => hear(take.name) });
			button.setAttribute('aria-pressed', String(take.name === heard));
			button.append(element('b', String(n + 1)), element('span', label(take, n)));
			if (take.price && !hidden) button.append(element('small', take.price));
			return button;
		})
	);
	const at = takes().findIndex((take) => take.name === heard);
	const sounding = takes()[at];
	said.textContent = sounding ? `${label(sounding, at)} · ${flight.tests[test]!.name}` : '';
}

function hear(name: string) {
	heard = name;
	engine.hear(name);
	show();
}

function step(by: number) {
	const mine = takes();
	const at = mine.findIndex((take) => take.name === heard);
	const next = mine[(at + by + mine.length) % mine.length];
	if (next) hear(next.name);
}

function choose(n: number) {
	test = (n + flight.tests.length) % flight.tests.length;
	void pour();
	show();
}

async function toggle() {
	if (engine.playing) engine.pause();
	else await engine.play();
	show();
	follow();
}

function setLoop(wanted: Loop | null) {
	loop = wanted && tidyLoop(wanted, Number(where.max));
	engine.setLoop(loop);
	show();
}

function follow() {
	where.value = String(engine.position);
	where.setAttribute('aria-valuetext', clock(engine.position));
	if (engine.playing) requestAnimationFrame(follow);
}

const KEYS: Record<string, () => void> = {
	' ': () => void toggle(),
	ArrowRight: () => step(1),
	ArrowLeft: () => step(-1),
	l: () => setLoop(loop ? null : { start_s: engine.position, end_s: engine.position + 4 }),
	t: () => choose(test + 1),
	Home: () => {
		engine.seek(loop?.start_s ?? 0);
		follow();
	}
};

document.addEventListener('keydown', (event) => {
	if (event.ctrlKey || event.altKey || event.metaKey) return;
	const at = event.target as HTMLElement;
	if (at instanceof HTMLInputElement && event.key.startsWith('Arrow')) return;
	if (event.key === ' ' && at instanceof HTMLButtonElement) return;
	const take = takes()[Number(event.key) - 1];
	const act =
		take && /^[1-9]$/.test(event.key) ? () => hear(take.name) : (KEYS[event.key] ?? KEYS[event.key.toLowerCase()]);
	if (!act) return;
	event.preventDefault();
	act();
});
play.onclick = () => void toggle();
looped.onclick = KEYS.l!;
reveal.onclick = () => {
	hidden = false;
	show();
};
where.oninput = () => engine.seek(Number(where.value));
where.setAttribute('aria-label', 'Place in the music');
engine.onEnded = () => {
	show();
	where.value = '0';
};
main.append(
	element('h1', flight.title),
	element('p', flight.question),
	tests,
	hands,
	glasses,
	said,
	where,
	element(
		'p',
		`${flight.school}. Keys: 1–9 hear, arrows step, Space plays, L loops four seconds, T next test, Home back.`,
		{
			className: 'fine'
		}
	),
	element('p', flight.made, { className: 'fine' })
);
hands.append(play, looped, reveal);
if (flight.tests.length) void pour();
show();
