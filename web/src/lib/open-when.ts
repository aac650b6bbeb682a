/** What opens and shuts by itself only when its reason changes: what a person opened in between stays open. */
export const openWhen = (wanted: boolean) => (node: HTMLDetailsElement) => {
	node.open = wanted;
};
