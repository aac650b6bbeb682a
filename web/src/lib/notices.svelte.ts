/** Short messages at the edge of the page; they go by themselves, errors stay longer. */
export type Notice = { id: number; text: string; kind: 'info' | 'error' };

class Notices {
	list = $state<Notice[]>([]);
	#next = 1;

	say(text: string, kind: Notice['kind'] = 'info') {
		const notice = { id: this.#next++, text, kind };
		this.list = [...this.list.filter((one) => one.text !== text), notice].slice(-4);
		setTimeout(() => this.drop(notice.id), kind === 'error' ? 9000 : 3500);
	}

	fail(error: unknown) {
		this.say(error instanceof Error ? error.message : String(error), 'error');
	}

	drop(id: number) {
		this.list = this.list.filter((one) => one.id !== id);
	}
}

export const notices = new Notices();
