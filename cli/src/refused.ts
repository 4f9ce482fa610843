/** A sentence for the person at the command line: what was wrong, where, what to do. */
export class Refused extends Error {}
