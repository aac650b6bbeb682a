/** What is sought on a page stands in its address, so that Back brings it back. */
import { replaceState } from '$app/navigation';
import { page } from '$app/state';
import { untrack } from 'svelte';

/** Fields of a search, each with what it usually is: only what differs is said in the address. */
export function useAsked<Key extends string>(usual: Record<Key, string>) {
	const keys = Object.keys(usual) as Key[];
	// eslint-disable-next-line svelte/prefer-svelte-reactivity -- read once
	const asked = new URLSearchParams(location.search);
	const wanted = $state(Object.fromEntries(keys.map((key) => [key, asked.get(key) ?? usual[key]]))) as Record<
		Key,
		string
	>;
	$effect(() => {
		const said = keys.filter((key) => wanted[key] !== usual[key]);
		// eslint-disable-next-line svelte/prefer-svelte-reactivity -- made and written out at once
		const address = new URLSearchParams(said.map((key) => [key, wanted[key]])).toString();
		// Not in the first moments, when the router is not there yet.
		if (address !== untrack(() => page.url.searchParams.toString()))
			setTimeout(() => replaceState(address ? `?${address}` : page.url.pathname, page.state));
	});
	return wanted;
}
