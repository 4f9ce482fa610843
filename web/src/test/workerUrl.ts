/** What stands in tests for the address of a program that the bundler builds for a thread. */
export default 'thread.js';
