/** A message to whoever runs the command, beside what it prints. */
export const say = (sentence: string): void => void process.stderr.write(`${sentence}\n`);
