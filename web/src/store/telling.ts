import { io, type Socket } from 'socket.io-client';
import type { Job, SongChange } from '@sure-hand/server';
import { whenIdle } from './whenIdle.js';

/** What the server tells pages without being asked. */
type Told = { readonly job: (job: Job) => void; readonly song: (change: SongChange) => void };

const CONNECTS_WITHIN_MS = 1000;

let socket: Socket<Told> | null = null;

/** The one connection of this page, made when first needed; it comes back by itself after the server was away. */
function connection(): Socket<Told> {
  if (socket) return socket;
  socket = io({ path: '/socket.io', autoConnect: false });
  // What is to be seen comes first; whatever changes meanwhile is caught up with as it connects.
  whenIdle(() => socket?.connect(), CONNECTS_WITHIN_MS);
  return socket;
}

/** Calls back as a job goes on; gives back what ends it. */
export function onJob(listener: (job: Job) => void): () => void {
  connection().on('job', listener);
  return () => connection().off('job', listener);
}

/** Calls back as any song changes, and as the server is back after it was away; gives back what ends it. */
export function onSongChange(listener: (change: SongChange) => void, onBack: () => void = () => undefined): () => void {
  const at = connection();
  at.on('song', listener);
  at.on('connect', onBack);
  return () => {
    at.off('song', listener);
    at.off('connect', onBack);
  };
}
