/** A chart taken out as a file: SVG with its colours and type written into it, or PNG at twice its size. */

const STYLED = [
	'fill', 'stroke', 'stroke-width', 'stroke-dasharray', 'stroke-linejoin', 'stroke-linecap', 'opacity', 'font-family',
	'font-size', 'font-weight', 'text-anchor'
]; // prettier-ignore
const SCALE = 2;

/** A copy that looks alike anywhere: on the page its colours come from the theme. */
function alone(svg: SVGSVGElement): string {
	const copy = svg.cloneNode(true) as SVGSVGElement;
	const [from, to] = [svg, copy].map((one) => [one, ...one.querySelectorAll<SVGElement>('*')]);
	from!.forEach((element, i) => {
		const style = getComputedStyle(element);
		for (const name of STYLED) to![i]!.setAttribute(name, style.getPropertyValue(name));
		to![i]!.removeAttribute('class');
	});
	const { width, height } = svg.getBoundingClientRect();
	copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
	copy.setAttribute('width', String(Math.round(width)));
	copy.setAttribute('height', String(Math.round(height)));
	const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
	ground.setAttribute('width', '100%');
	ground.setAttribute('height', '100%');
	ground.setAttribute('fill', getComputedStyle(document.body).backgroundColor);
	copy.prepend(ground);
	return new XMLSerializer().serializeToString(copy);
}

export function saveFile(content: Blob, name: string) {
	const link = document.createElement('a');
	link.href = URL.createObjectURL(content);
	link.download = name;
	link.click();
	setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

const fileName = (title: string) =>
	title
		.toLowerCase()
		.replace(/[^\p{L}\p{N}]+/gu, '-')
		.replace(/^-|-$/g, '')
		.slice(0, 60) || 'picture';

export async function takePicture(svg: SVGSVGElement, title: string, kind: 'svg' | 'png') {
	const text = alone(svg);
	const drawn = new Blob([text], { type: 'image/svg+xml' });
	if (kind === 'svg') return saveFile(drawn, `${fileName(title)}.svg`);
	const image = new Image();
	image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
	await image.decode();
	const canvas = document.createElement('canvas');
	canvas.width = image.width * SCALE;
	canvas.height = image.height * SCALE;
	const pen = canvas.getContext('2d')!;
	pen.scale(SCALE, SCALE);
	pen.drawImage(image, 0, 0);
	const png = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
	if (!png) throw new Error('This browser could not draw the picture.');
	saveFile(png, `${fileName(title)}.png`);
}
