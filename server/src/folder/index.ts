export { FolderTrouble, backUp, restore, type Copied } from './backup.js';
