<script lang="ts">
	import { page } from '$app/state';
</script>

<h1>{page.status === 404 ? 'There is no such page' : 'Something went wrong'}</h1>
<p class="my-3">
	{page.status === 404 ? 'It may have been removed in another window.' : page.error?.message}
</p>
<a class="btn btn-sm" href="/">Home</a>
