import '@fontsource/atkinson-hyperlegible/400.css';
import '@fontsource/atkinson-hyperlegible/700.css';
import '@fontsource/atkinson-hyperlegible-mono/400.css';
import '@fontsource/atkinson-hyperlegible-mono/700.css';
import '@mantine/core/styles.css';
import './parts/parts.css';
import './frame/frame.css';
import './views/ride/strip.css';
import './views/ride/rows.css';
import './views/ride/numbers.css';
import './views/desk/desk.css';
import './frame/handBar.css';
import './parts/sheet.css';
import './views/songs/songs.css';
import './views/files/files.css';
import './views/passes/passes.css';
import { nextTask } from './song/nextTask.js';

/** Says in the bare page why nothing else is in it. */
function sayNotWhole(): void {
  const alert = document.createElement('main');
  alert.className = 'not-whole';
  alert.setAttribute('role', 'alert');
  alert.textContent =
    'Sure Hand’s program could not be fetched whole. See that its server runs (npm start), then reload this page.';
  document.getElementById('root')!.replaceChildren(alert);
}

// Each part runs for the first time in a task of its own, so that none of them holds the page up for long.
try {
  await import('./store/store.js');
  await nextTask();
  const { showApp } = await import('./app.js');
  await nextTask();
  showApp();
} catch (error) {
  sayNotWhole();
  throw error;
}
