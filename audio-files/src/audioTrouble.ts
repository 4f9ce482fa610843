/** An audio file that is missing, broken or cannot be written: its message is the sentence for the person. */
export class AudioTrouble extends Error {}
