import { io, type Socket } from 'socket.io-client';
import type { Job, SongChange } from '@sure-hand/server';

/** What the server tells pages without being asked. */
type Told = { readonly job: (job: Job) => void; readonly song: (change: SongChange) => void };

let socket: Socket<Told> | null = null;

/** The one connection of this page, made when first needed; it comes back by itself after the server was away. */
function connection(): Socket<Told> {
  return (socket ??= io({ path: '/socket.io' }));
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
