import { Injectable } from '@nestjs/common';
import type { Transaction } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';

/**
 * Everything that writes to the database does it through here, one after the other. SQLite has one writer at a time: whoever else
 * wants to write waits for it within the driver, and holds one of its few threads meanwhile; four that wait leave none to the one
 * they wait for.
 */
@Injectable()
export class OneWriter {
  #last: Promise<unknown> = Promise.resolve();

  constructor(private readonly sequelize: Sequelize) {}

  /** Writes by single statements, each of which counts by itself. Not to be called from within another writing. */
  write<T>(act: () => Promise<T>): Promise<T> {
    const turn = this.#last.then(act);
    this.#last = turn.catch(() => undefined);
    return turn;
  }

  /** Writes all that an act writes, or nothing. Not to be called from within another writing. */
  transaction<T>(act: (transaction: Transaction) => Promise<T>): Promise<T> {
    return this.write(() => this.sequelize.transaction(act));
  }
}
