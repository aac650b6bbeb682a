/** Uploads of a flight: two at a time, each with its progress, each refused or taken on its own. */
import { queries } from '$lib/api/client';
import type { Cell } from './moving';
import { send, Stopped, type Sending } from '$lib/upload';

export type Upload = {
	id: number;
	name: string;
	state: 'waiting' | 'sending' | 'checking' | 'taken' | 'refused' | 'cancelled';
	share: number;
	reason: string;
};

const AT_ONCE = 2;

export class Uploads {
	list = $state<Upload[]>([]);
	// eslint-disable-next-line svelte/prefer-svelte-reactivity
	#cells = new Map<number, Cell>();
	// Bookkeeping that no view reads, so it need not be reactive.
	// eslint-disable-next-line svelte/prefer-svelte-reactivity
	#files = new Map<number, File>();
	// eslint-disable-next-line svelte/prefer-svelte-reactivity
	#sendings = new Map<number, Sending>();
	#next = 1;
	#flight: () => number;
	#whenDone: () => Promise<unknown>;
	#cell: () => Cell | null;

	/** `cell` takes the cell that the next file is meant for, once; none where it goes by its name. */
	constructor(flight: () => number, whenDone: () => Promise<unknown>, cell: () => Cell | null) {
		this.#flight = flight;
		this.#whenDone = whenDone;
		this.#cell = cell;
	}

	get open(): number {
		return this.list.filter((one) => one.state === 'waiting' || one.state === 'sending' || one.state === 'checking')
			.length;
	}

	get refused(): Upload[] {
		return this.list.filter((one) => one.state === 'refused');
	}

	add(files: { file: File; name: string }[]) {
		const fresh = files.map(({ file, name }, index) => {
			const id = this.#next++;
			const cell = index === 0 ? this.#cell() : null;
			if (cell) this.#cells.set(id, cell);
			this.#files.set(id, file);
			return { id, name, state: 'waiting' as const, share: 0, reason: '' };
		});
		// What is finished makes room for the new batch; refusals stay until they are put away.
		this.list = [...this.list.filter((one) => one.state !== 'taken'), ...fresh];
		this.#pump();
	}

	cancel() {
		for (const one of this.list) if (one.state === 'waiting') this.#change(one.id, { state: 'cancelled' });
		for (const sending of this.#sendings.values()) sending.stop();
	}

	clear() {
		this.list = this.list.filter((one) => ['waiting', 'sending', 'checking'].includes(one.state));
	}

	#change(id: number, change: Partial<Upload>) {
		this.list = this.list.map((one) => (one.id === id ? { ...one, ...change } : one));
	}

	#pump() {
		while (this.#sendings.size < AT_ONCE) {
			const next = this.list.find((one) => one.state === 'waiting');
			if (!next) break;
			void this.#send(next);
		}
		if (this.open === 0 && this.list.some((one) => one.state === 'taken')) void this.#whenDone();
	}

	async #send(upload: Upload) {
		const file = this.#files.get(upload.id);
		if (!file) return;
		const sending = send(
			`/api/flights/${this.#flight()}/takes?name=${encodeURIComponent(upload.name)}${this.#to(upload.id)}`,
			file,
			(share) => this.#change(upload.id, { share }),
			() => this.#change(upload.id, { state: 'checking', share: 1 })
		);
		this.#sendings.set(upload.id, sending);
		this.#change(upload.id, { state: 'sending' });
		try {
			await sending.done;
			this.#change(upload.id, { state: 'taken' });
		} catch (error) {
			if (error instanceof Stopped) this.#change(upload.id, { state: 'cancelled' });
			else this.#change(upload.id, { state: 'refused', reason: (error as Error).message });
		}
		this.#finish(upload.id);
	}

	#to(id: number): string {
		const cell = this.#cells.get(id);
		return cell ? `&contender_id=${cell.contender}&test_id=${cell.test}&repeat=${cell.repeat ?? 0}` : '';
	}

	#finish(id: number) {
		this.#cells.delete(id);
		this.#sendings.delete(id);
		this.#files.delete(id);
		this.#pump();
		if (this.open === 0) void queries.invalidateQueries();
	}
}

type Entry = FileSystemEntry & {
	file?: (found: (file: File) => void, failed: (error: Error) => void) => void;
};

async function walk(entry: Entry, out: { file: File; name: string }[]): Promise<void> {
	if (entry.isFile) {
		const file = await new Promise<File>((found, failed) => (entry as FileSystemFileEntry).file(found, failed));
		out.push({ file, name: entry.fullPath.replace(/^\//, '') });
		return;
	}
	const reader = (entry as FileSystemDirectoryEntry).createReader();
	for (;;) {
		const part = await new Promise<FileSystemEntry[]>((found, failed) => reader.readEntries(found, failed));
		if (!part.length) return;
		for (const child of part) await walk(child, out);
	}
}

/** The files of a drop, folders included, named by their path. */
export async function filesOf(transfer: DataTransfer): Promise<{ file: File; name: string }[]> {
	const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.()).filter((one) => one !== null);
	if (!entries.length) return [...transfer.files].map((file) => ({ file, name: file.name }));
	const out: { file: File; name: string }[] = [];
	for (const entry of entries) if (entry) await walk(entry, out);
	return out.filter(({ name }) => !name.split('/').pop()?.startsWith('.'));
}
