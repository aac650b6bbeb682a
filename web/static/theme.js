// Before the first paint: the theme that was chosen, or the system's.
(function () {
	var chosen = null;
	try {
		chosen = localStorage.getItem('cata-theme');
	} catch {
		// Storage may be closed to us; the system's theme is then right.
	}
	if (chosen === 'cellar' || chosen === 'counter') document.documentElement.setAttribute('data-theme', chosen);
})();
