import { readFileSync, readdirSync } from 'node:fs';

/** A process and all that it began, and those began. */
const processes = (browserPid) => {
  const parents = new Map();
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      parents.set(Number(pid), Number(/\) \S (\d+)/.exec(readFileSync(`/proc/${pid}/stat`, 'utf8'))[1]));
    } catch {
      // It has ended meanwhile.
    }
  }
  const under = [browserPid];
  for (let i = 0; i < under.length; i++) for (const [pid, parent] of parents) if (parent === under[i]) under.push(pid);
  return under;
};
const pssOf = (p) => Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${p}/smaps_rollup`, 'utf8'))[1]) / 1024;

/** The proportional set sizes of a browser’s processes, all together. */
export const pssMb = (pid) => under(pid, pssOf).reduce((a, b) => a + b, 0);

/** The same of each by itself, under what it is for and its number. */
export const pssByProcess = (pid) =>
  Object.fromEntries(
    under(pid, (p) => {
      const command = readFileSync(`/proc/${p}/cmdline`, 'utf8');
      const type = /--utility-sub-type=\w+\.mojom\.(\w+)/.exec(command) ?? /--type=([\w-]+)/.exec(command);
      return [`${type?.[1] ?? 'browser'} ${p}`, pssOf(p)];
    }),
  );
const under = (pid, read) =>
  processes(pid).flatMap((p) => {
    try {
      return [read(p)];
    } catch {
      return [];
    }
  });

const tasksOf = (pid) => {
  try {
    return readdirSync(`/proc/${pid}/task`);
  } catch {
    return [];
  }
};

/** CPU seconds that the threads of a browser have used whose name is as asked, by the system's count. */
function threadSec(pid, isOne) {
  let ticks = 0;
  for (const p of processes(pid)) {
    for (const task of tasksOf(p)) {
      try {
        const stat = readFileSync(`/proc/${p}/task/${task}/stat`, 'utf8');
        const [name, rest] = [
          stat.slice(stat.indexOf('(') + 1, stat.lastIndexOf(')')),
          stat.slice(stat.lastIndexOf(')') + 2).split(' '),
        ];
        if (isOne(name)) ticks += Number(rest[11]) + Number(rest[12]);
      } catch {
        // It has ended meanwhile.
      }
    }
  }
  return ticks / 100;
}

/** CPU seconds that the audio thread has used. */
export const audioThreadSec = (pid) => threadSec(pid, (name) => /^Realtime AudioW|^AudioWorklet/.test(name));

/** CPU seconds that all of a browser has used. */
export const browserSec = (pid) => threadSec(pid, () => true);
