<script lang="ts">
	/** How to record six open strings. */
</script>

<aside aria-label="How to record the strings" class="text-sm">
	<ol class="list-decimal pl-5 space-y-1">
		<li>Straight into the interface, nothing in between, all knobs up. A second of silence first.</li>
		<li>Strike each open string, low to high, let it ring two seconds, damp it before the next.</li>
		<li>Three rounds: only rounds tell the hand from the pickup.</li>
		<li>The input gain stays where it is for every pickup, or no output can be compared.</li>
		<li>
			Heights: from pole to string, pressed at the last fret, outer strings. <strong>Slacken the strings</strong> before you
			work under them.
		</li>
	</ol>
</aside>
