/**
 * How takes are poured: as they were recorded, at the levels of a school; all in the tone of one of them; or with a sound
 * that somebody is after beside them.
 */
import { api, got, type School, type Tray } from '../api/client';
import type { Loop } from './timeline';

const SCHOOLS: School[] = ['equal', 'by_ear', 'as_set'];

export class Manner {
	school = $state<School>('equal');
	/** The contender of a flight to whose tone all are brought. */
	tone = $state.raw<{ flight: number; contender: number } | null>(null);
	/** A sound that somebody is after, poured with the takes of a flight. */
	target = $state.raw<{ flight: number; bed: number } | null>(null);

	/** True where the takes are as they were recorded. */
	get plain(): boolean {
		return !this.tone && !this.target;
	}

	asRecorded() {
		this.tone = this.target = null;
	}

	inTone(flight: number, contender: number) {
		this.target = null;
		this.tone = { flight, contender };
	}

	withTarget(flight: number, bed: number) {
		this.tone = null;
		this.target = { flight, bed };
	}

	nextSchool() {
		this.school = SCHOOLS[(SCHOOLS.indexOf(this.school) + 1) % SCHOOLS.length] ?? 'equal';
	}

	/** What is asked for as it is to be poured; another flight knows nothing of a tone or a target. */
	ask(of: Tray['of'], owner: number, key: string, looped: Loop | null): Promise<Tray> {
		if (of === 'gear') {
			const path = { gear_id: owner, key };
			// Of a measured item nothing is known by ear.
			const query = { school: this.school === 'by_ear' ? 'equal' : this.school } as const;
			return got(api.GET('/api/gear/{gear_id}/proof/{key}', { params: { path, query } }));
		}
		const path = { flight_id: owner, test_id: Number(key) };
		if (this.tone?.flight === owner) {
			const query = { reference: this.tone.contender };
			return got(api.GET('/api/flights/{flight_id}/together/{test_id}/tray', { params: { path, query } }));
		}
		this.tone = null;
		if (this.target?.flight === owner) {
			const at = '/api/flights/{flight_id}/together/{test_id}/target/{bed_id}/tray';
			return got(api.GET(at, { params: { path: { ...path, bed_id: this.target.bed } } }));
		}
		this.target = null;
		// What is looped is what is to be equally loud to the ear.
		const span = this.school === 'by_ear' && looped ? { from_s: looped.start_s, to_s: looped.end_s } : {};
		const query = { school: this.school, ...span };
		return got(api.GET('/api/flights/{flight_id}/tray/{test_id}', { params: { path, query } }));
	}
}
