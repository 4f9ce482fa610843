// Every place this runs in has these; the language’s own library does not name them.
declare const TextEncoder: new () => { encode(text: string): Uint8Array };
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

/** A text as bytes. */
export const bytesOfText = (text: string): Uint8Array => new TextEncoder().encode(text);
/** The text that bytes stand for; what is no text becomes marks of the replacement character. */
export const textOfBytes = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
