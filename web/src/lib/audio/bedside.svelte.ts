/** What plays beside the takes of a flight: a bed, how far the takes lie above it, and whether it sounds. */
import { api, got, type Beside, type Tray } from '../api/client';
import { notices } from '../notices.svelte';
import type { Voice } from './engine';
import { decode, repeated } from './load';
import { linear, type Span } from './timeline';

export class Bedside {
	chosen = $state<number | null>(null);
	relation_lu = $state(0);
	sounds = $state(false);
	laid = $state.raw<Beside | null>(null);

	/** Takes and bed are lowered together so that no peak of their sum is cut, alone or not. */
	get room(): number {
		return linear(this.laid?.room_db ?? 0);
	}

	/** How loud its voice is. */
	get gains(): Record<string, number> {
		return { bed: this.sounds ? 1 : 0 };
	}

	choose(bed: number | null, relation_lu: number) {
		this.chosen = bed;
		this.relation_lu = relation_lu;
		if (bed !== null && this.laid === null) this.sounds = true;
	}

	/** The bed as a voice beside the takes; none where none is chosen, or where it cannot be played. */
	async voice(context: BaseAudioContext, tray: Tray, span: Span): Promise<Voice | null> {
		this.laid = null;
		if (tray.of !== 'flight' || this.chosen === null) return null;
		try {
			const path = { flight_id: tray.owner_id, test_id: Number(tray.poured.key) };
			const query = { bed: this.chosen, relation: this.relation_lu };
			const laid = await got(api.GET('/api/flights/{flight_id}/beside/{test_id}', { params: { path, query } }));
			const buffer = await decode(context, laid.bed.url);
			this.laid = laid;
			return { id: 'bed', buffer: repeated(context, buffer, span), gain: linear(laid.gain_db) };
		} catch (error) {
			this.chosen = null;
			notices.fail(error);
			return null;
		}
	}
}
