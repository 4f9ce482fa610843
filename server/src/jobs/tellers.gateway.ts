import { Inject } from '@nestjs/common';
import { WebSocketGateway, WebSocketServer, type OnGatewayInit } from '@nestjs/websockets';
import type { Server } from 'socket.io';
import { SongStore, type SongChange } from '../songs/songStore.js';
import { JobBoard, type Job } from './jobBoard.js';

/** What pages are told without asking: how jobs go on, and that a song has changed. */
export type Told = { readonly job: (job: Job) => void; readonly song: (change: SongChange) => void };

@WebSocketGateway({ serveClient: false })
export class TellersGateway implements OnGatewayInit {
  @WebSocketServer()
  private readonly server!: Server<Record<string, never>, Told>;

  constructor(
    @Inject(JobBoard) private readonly jobs: JobBoard,
    @Inject(SongStore) private readonly songs: SongStore,
  ) {}

  afterInit(): void {
    this.jobs.changes.subscribe((job) => this.server.emit('job', job));
    this.songs.changed.subscribe((change) => this.server.emit('song', change));
  }
}
