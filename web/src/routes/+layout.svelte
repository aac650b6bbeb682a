<script lang="ts">
	import '@fontsource-variable/source-sans-3';
	import '@fontsource-variable/inter';
	import '../app.css';
	import { afterNavigate, beforeNavigate } from '$app/navigation';
	import { page } from '$app/state';
	import CircleHelp from '@lucide/svelte/icons/circle-help';
	import MoonStar from '@lucide/svelte/icons/moon-star';
	import Redo2 from '@lucide/svelte/icons/redo-2';
	import Sun from '@lucide/svelte/icons/sun';
	import Search from '@lucide/svelte/icons/search';
	import Undo2 from '@lucide/svelte/icons/undo-2';
	import { createQuery, QueryClientProvider } from '@tanstack/svelte-query';
	import { onMount, type Snippet } from 'svelte';
	import { api, got, queries } from '$lib/api/client';
	import { arrows, nextPart } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { keys } from '$lib/keys.svelte';
	import { live } from '$lib/live.svelte';
	import { metaQuery } from '$lib/meta';
	import { notices } from '$lib/notices.svelte';
	import { turn } from '$lib/undo.svelte';
	import Find from '$lib/parts/Find.svelte';
	import Meanwhile from '$lib/parts/Meanwhile.svelte';
	import KeysDialog from '$lib/parts/KeysDialog.svelte';
	import Tray from '$lib/parts/Tray.svelte';

	let { children }: { children: Snippet } = $props();
	let pane: HTMLElement;
	/** A page begins at its top, and Back brings back the place where one was: the pages scroll inside a pane. */
	// eslint-disable-next-line svelte/prefer-svelte-reactivity -- bookkeeping that no view reads
	const left = new Map<string, number>();
	beforeNavigate(({ from }) => void (from?.url && left.set(from.url.href, pane.scrollTop)));
	afterNavigate(({ from, to, type }) => {
		if (!from?.url || !to?.url || from.url.pathname === to.url.pathname) return;
		if (type === 'popstate') scrollTo(left.get(to.url.href) ?? 0, 40);
		else if (!to.url.hash) pane.scrollTop = 0;
	});

	/** What is to be shown there may still be on its way. */
	function scrollTo(top: number, tries: number) {
		pane.scrollTop = top;
		if (Math.abs(pane.scrollTop - top) > 2 && tries) setTimeout(() => scrollTo(top, tries - 1), 25);
	}
	let helpOpen = $state(false);
	let findOpen = $state(false);
	let theme = $state<string | null>(null);
	let demo = $state(false);

	const places = [
		['/brief', 'Brief'],
		['/gear', 'Gear'],
		['/flights', 'Flights'],
		['/tastings', 'Tastings'],
		['/choose', 'Choose'],
		['/workshop', 'Workshop']
	] as const;

	const steps = createQuery(
		() => ({ queryKey: ['undo'], queryFn: () => got(api.GET('/api/undo')) }),
		() => queries
	);
	const workers = createQuery(
		() => ({ queryKey: ['workers'], queryFn: () => got(api.GET('/api/workers')) }),
		() => queries
	);
	/** What a button would do, before it does it. */
	const would = (word: string, keys: string, label: string | null | undefined) =>
		label ? `${word}: ${label} (${keys})` : `Nothing to ${word.toLowerCase()} (${keys})`;
	function changeTheme() {
		const dark = theme === 'cellar' || (theme === null && window.matchMedia('(prefers-color-scheme: dark)').matches);
		theme = dark ? 'counter' : 'cellar';
		document.documentElement.setAttribute('data-theme', theme);
		try {
			localStorage.setItem('cata-theme', theme);
		} catch {
			// Without storage the choice lasts as long as the page.
		}
	}

	/**
	 * A button that was pressed by mouse or finger gives the keys back: Space then plays instead of pressing it again.
	 * One that was reached by keyboard keeps the focus.
	 */
	function releaseButton(event: MouseEvent) {
		const button = (event.target as HTMLElement | null)?.closest?.('button');
		if (event.detail > 0 && button && button === document.activeElement && !button.closest('dialog')) button.blur();
	}

	onMount(() => {
		void queries.fetchQuery(metaQuery).then(
			(meta) => (demo = meta.demo),
			() => undefined
		);
		theme = document.documentElement.getAttribute('data-theme');
		live.open();
		const off = keys.on({
			play: () => void player.toggle(),
			next: () => player.step(1),
			previous: () => player.step(-1),
			bypass: () => player.bypass(),
			loop: () => player.toggleLoop(),
			loopStart: () => player.markLoop('start'),
			loopEnd: () => player.markLoop('end'),
			school: () => void player.nextSchool(),
			bed: () => player.toggleBed(),
			tone: () => void player.toggleTone(),
			test: () => void player.nextTest(),
			back: () => player.back(),
			find: () => (findOpen = true),
			part: () => nextPart(1),
			partBack: () => nextPart(-1),
			help: () => (helpOpen = true),
			undo: () => void turn('undo'),
			redo: () => void turn('redo')
		});
		keys.onDigit((digit) => player.hearNth(digit));
		return () => {
			off();
			live.close();
		};
	});
</script>

<svelte:window
	onpagehide={() => (document.activeElement as HTMLElement | null)?.blur()}
	onkeydown={(event) => keys.press(event)}
	onclick={releaseButton} />
<svelte:head><title>Cata</title></svelte:head>

<QueryClientProvider client={queries}>
	<a class="skip" href="#page">Skip to the page</a>
	<div class="h-dvh overflow-hidden flex flex-col bg-base-100 text-base-content whole">
		<header
			class="no-print border-b rule shrink-0 flex items-center max-sm:flex-wrap gap-0 md:gap-1 px-2 md:px-3 sm:h-11">
			<a
				href="/"
				class="font-bold text-lg mr-1 md:mr-3 tracking-tight"
				aria-current={page.url.pathname === '/' ? 'page' : undefined}>Cata</a>
			{#if demo}
				<span
					class="hidden md:inline text-xs font-semibold border rule rounded px-1 mr-3"
					title="All of this is made up. Your own data is untouched; start it with: cata serve">demo</span>
			{/if}
			<nav
				aria-label="Main"
				class="flex md:gap-1 max-sm:order-last max-sm:w-full max-sm:justify-between"
				{@attach arrows}>
				{#each places as [href, label] (href)}
					{@const here = page.url.pathname.startsWith(href)}
					<a
						{href}
						class="px-1 sm:px-1.5 md:px-2.5 py-1 text-sm md:text-base rounded-sm hover:bg-base-200 border-b-2 {here
							? 'border-primary font-semibold'
							: 'border-transparent'}"
						aria-current={here ? 'page' : undefined}>{label}</a>
				{/each}
			</nav>
			<span class="grow"></span>
			{#if !live.connected}
				<span class="text-error text-sm font-semibold whitespace-nowrap" role="status"
					>Cata does not answer; waiting for it</span>
			{/if}
			<div class="flex" {@attach arrows}>
				<button
					class="btn btn-ghost btn-sm btn-square max-md:w-7"
					onclick={() => (findOpen = true)}
					aria-label="Find"
					title="Find (F)"><Search size={17} /></button>
				<button
					class="btn btn-ghost btn-sm btn-square max-md:w-7"
					onclick={() => turn('undo')}
					aria-label="Undo"
					title={would('Undo', 'Ctrl+Z', steps.data?.undo)}><Undo2 size={17} /></button>
				<button
					class="btn btn-ghost btn-sm btn-square max-md:w-7"
					onclick={() => turn('redo')}
					aria-label="Redo"
					title={would('Redo', 'Ctrl+Shift+Z', steps.data?.redo)}><Redo2 size={17} /></button>
				<button
					class="btn btn-ghost btn-sm btn-square max-md:w-7"
					onclick={changeTheme}
					aria-label="Change between dark and light">
					{#if theme === 'counter'}<MoonStar size={17} />{:else}<Sun size={17} />{/if}
				</button>
				<button
					class="btn btn-ghost btn-sm btn-square max-sm:hidden"
					onclick={() => (helpOpen = true)}
					aria-label="Keys"
					title="Keys (?)"><CircleHelp size={17} /></button>
			</div>
		</header>
		<main id="page" bind:this={pane} class="grow overflow-y-auto min-h-0 whole relative" tabindex="-1">
			<div class="px-4 py-4 max-w-[90rem] mx-auto">
				{#if demo}<p class="md:hidden quiet text-xs -mt-2 mb-2">demo: all of this is made up</p>{/if}
				{#if workers.data?.trouble}
					<p class="border border-warning rounded-box px-3 py-2 mb-3" role="status">{workers.data.trouble.words}</p>
				{/if}
				{@render children()}
			</div>
		</main>
		<!-- In a tasting nothing may say what is poured elsewhere. -->
		{#if !page.url.pathname.startsWith('/tastings/')}<Tray />{/if}
	</div>
	<div class="fixed right-4 bottom-32 z-50 flex flex-col gap-2 no-print" aria-live="polite">
		{#each notices.list as notice (notice.id)}
			<div
				class="border rounded-box px-3 py-2 max-w-[min(24rem,calc(100vw-2rem))] bg-base-200 {notice.kind === 'error'
					? 'border-error'
					: 'rule'}"
				role={notice.kind === 'error' ? 'alert' : undefined}>
				{#if notice.actions.length}
					<p>{notice.text}</p>
					{#if notice.share !== null}
						<progress class="progress progress-primary w-full" value={notice.share} max="1"></progress>
					{/if}
					<div class="flex flex-wrap gap-2 mt-2">
						{#each notice.actions as action (action.label)}
							<button class="btn btn-sm btn-outline" onclick={action.act}>{action.label}</button>
						{/each}
					</div>
				{:else}
					<button class="text-left" onclick={() => notices.drop(notice.id)}>{notice.text}</button>
				{/if}
			</div>
		{/each}
	</div>
	<KeysDialog bind:open={helpOpen} />
	<Find bind:open={findOpen} />
	<Meanwhile />
</QueryClientProvider>
