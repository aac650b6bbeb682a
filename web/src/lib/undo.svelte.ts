/** Undo and redo: one step at a time, with what stands in the way and how far a long one is. */
import { api, changesSettled, got, Problem, queries } from './api/client';
import { player } from './audio/player.svelte';
import { live } from './live.svelte';
import { notices } from './notices.svelte';

export type Way = 'undo' | 'redo';
type How = 'all' | 'rest' | 'skip';

const counted = (rows: number) => rows.toLocaleString('en');

/** A second press while the first is on its way goes one further. */
let stepping: Promise<void> = Promise.resolve();
export const turn = (way: Way, how: How = 'all') => (stepping = stepping.then(() => step(way, how)));

async function step(way: Way, how: How) {
	const work = notices.work(() => void api.DELETE('/api/undo'));
	try {
		await changesSettled();
		const label = (await got(api.GET('/api/undo')))[way];
		if (!label) {
			notices.say(way === 'undo' ? 'Nothing to undo.' : 'Nothing to redo.');
			return;
		}
		live.onTurning = (done, total) =>
			work.at(
				`${way === 'undo' ? 'Undoing' : 'Redoing'} “${label}”: ${counted(done)} of ${counted(total)} rows`,
				done / total
			);
		const params = how === 'all' ? {} : { query: { how } };
		const after = await got(way === 'undo' ? api.POST('/api/undo', { params }) : api.POST('/api/redo', { params }));
		if (how === 'skip') notices.say(`Left as it is: ${label}`);
		else if (after[way] === label && after[way === 'undo' ? 'redo' : 'undo'] === label)
			notices.say(`Stopped: ${label}`);
		else notices.say(`${way === 'undo' ? 'Undone' : 'Done again'}: ${label}`);
		await queries.invalidateQueries();
		await player.refresh();
	} catch (error) {
		if (error instanceof Problem && error.code === 'changed_since') blocked(way, error);
		else notices.fail(error);
	} finally {
		live.onTurning = null;
		work.done();
	}
}

function blocked(way: Way, error: Problem) {
	const rest = { label: way === 'undo' ? 'Undo the rest' : 'Redo the rest', act: () => void turn(way, 'rest') };
	notices.ask(error.message, [
		...(Number(error.numbers.rest) ? [rest] : []),
		{ label: 'Skip it', act: () => void turn(way, 'skip') },
		{ label: 'Close', act: () => {} }
	]);
}
