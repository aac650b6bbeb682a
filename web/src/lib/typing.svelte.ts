/**
 * A field that changes elsewhere while somebody types in it: what was typed stays, what came is shown beside it, and the
 * person says which of the two holds. It works for every field of every page: what a page writes into a field that has
 * the focus and was typed in is held back here.
 */
type Field = HTMLInputElement | HTMLTextAreaElement;
const TEXTS = 'textarea, input:not([type]), input[type=text], input[type=search], input[type=number]';

class Typing {
	/** The field that is typed in, and what it became elsewhere; null where nothing did. */
	met = $state.raw<{ field: Field; theirs: string } | null>(null);
	#field: Field | null = null;
	#dirty = false;
	/** A page may answer each letter (a draft, a figure with its decimals): that is no change from elsewhere. */
	#answering = false;
	#answer: string | null = null;

	/** Whatever has the focus now. */
	begin(target: EventTarget | null) {
		this.end();
		if (!(target instanceof HTMLElement) || !target.matches(TEXTS)) return;
		const field = target as Field;
		this.#field = field;
		const native = Object.getOwnPropertyDescriptor(Object.getPrototypeOf(field), 'value')!;
		Object.defineProperty(field, 'value', {
			configurable: true,
			get: () => native.get!.call(field),
			set: (text: unknown) => {
				const next = String(text ?? '');
				if (!this.#dirty || next === native.get!.call(field)) {
					this.#answer = null;
					native.set!.call(field, text);
				} else if (this.#answering) this.#answer = next;
				else this.met = { field, theirs: next };
			}
		});
	}

	/** Something was typed. */
	typed(target: EventTarget | null) {
		if (target !== this.#field) return;
		this.#dirty = this.#answering = true;
		setTimeout(() => (this.#answering = false));
	}

	/** What was typed is on its way: from here the page may write again. What was met is told by the caller. */
	sent(target: EventTarget | null): string | null {
		if (target !== this.#field) return null;
		const lost = this.met && this.met.theirs !== this.#field?.value ? this.met.theirs : null;
		this.#dirty = false;
		this.met = null;
		const [field, answer] = [this.#field, this.#answer];
		if (field && answer !== null) setTimeout(() => this.#field !== field || this.#dirty || (field.value = answer));
		this.#answer = null;
		return lost;
	}

	/** What came from elsewhere holds. */
	takeTheirs() {
		const met = this.met;
		this.#dirty = false;
		this.met = null;
		if (met) met.field.value = met.theirs;
	}

	end() {
		if (this.#field) delete (this.#field as Partial<Field>).value;
		this.#field = null;
		this.#answer = null;
		this.#dirty = false;
		this.met = null;
	}
}

export const typing = new Typing();
