// The page is drawn in the browser; the server only sends files and data.
export const ssr = false;
export const prerender = false;
