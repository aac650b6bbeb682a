/** A part of an address that is a number. */
export const match = (text: string) => /^\d{1,10}$/.test(text);
