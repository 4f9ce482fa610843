/** What comes after it is a task of its own: the page hears of hands, and draws, between the two. */
export const nextTask = (): Promise<void> => new Promise((done) => setTimeout(done));
