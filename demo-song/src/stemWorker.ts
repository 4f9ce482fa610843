import type { Form } from './score/form.js';
import { writeStem, type Stem } from './stem.js';

/** A worker thread's job: one stem. */
export default ({ key, form, folder }: { key: string; form: Form; folder: string }): Stem =>
  writeStem(key, form, folder);
