import { settingsFrom, startServer } from '@sure-hand/server';

// Runs servers as it is told to, one at a time. What a server is made of is loaded once.

let running = null;

const ACTS = {
  async start({ root, web, env, demo }) {
    running = await startServer(settingsFrom(env, root, web), { demo, say: () => undefined });
    return running.address;
  },
  async stop() {
    await running?.close();
    running = null;
  },
};

process.on('message', ({ id, act, ...what }) => {
  ACTS[act](what).then(
    (result) => process.send({ id, result }),
    (error) => process.send({ id, error: error.message }),
  );
});
// The tests are over, however they ended.
process.on('disconnect', () => process.exit());
