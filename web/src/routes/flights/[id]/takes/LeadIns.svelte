<script lang="ts">
	/** How long each take begins with a moment in which nobody plays. */
	import { api, got, type Take } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';

	let { takes }: { takes: Take[] } = $props();

	async function leadIn(take: number, text: string) {
		const lead_in_s = Number(text.replace(',', '.'));
		if (!Number.isFinite(lead_in_s)) return notices.say('Write seconds, such as 0.5.', 'error');
		try {
			await got(api.POST('/api/takes/{take_id}/lead-in', { params: { path: { take_id: take } }, body: { lead_in_s } }));
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<details class="mt-5 text-sm no-print">
	<summary class="cursor-pointer">Silence before the playing</summary>
	<p class="quiet my-2 max-w-2xl">
		If every take begins with a moment in which nobody plays, say how long: the noise floor is then measured there
		instead of being guessed from the quietest half second.
	</p>
	<ul class="grid gap-1 max-w-xl" {@attach arrows}>
		{#each takes as take (take.id)}
			<li class="flex gap-2 items-center">
				<input
					class="input input-xs w-20 figures"
					aria-label="Lead-in of {take.filename} in seconds"
					inputmode="decimal"
					placeholder="none"
					onchange={(event) => leadIn(take.id, event.currentTarget.value)} />
				s <span class="truncate">{take.filename}</span>
			</li>
		{/each}
	</ul>
</details>
