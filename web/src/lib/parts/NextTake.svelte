<script lang="ts">
	/** The take that would tell most: one click puts it before all that is open in its flight. */
	import { goto } from '$app/navigation';
	import { api, got, queries, type Choice } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	let { next }: { next: NonNullable<Choice['next_take']> } = $props();

	async function putIn() {
		try {
			const path = { flight_id: next.flight_id };
			const body = { gear_id: next.gear_id, contender_id: next.contender_id, test_id: next.test_id };
			await got(api.POST('/api/flights/{flight_id}/one-more', { params: { path }, body }));
			notices.say(`It is next in “${next.flight_name}”. Ctrl+Z takes it out.`);
			await queries.invalidateQueries();
			await goto(`/flights/${next.flight_id}/next`);
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<p class="mb-4 flex flex-wrap gap-2 items-center no-print">
	<button class="btn btn-sm" onclick={putIn}>Put it into the order</button>
	<span class="text-sm quiet"
		>“{next.test}” of “{next.flight_name}”, about {next.minutes} minutes with the change-over</span>
</p>
