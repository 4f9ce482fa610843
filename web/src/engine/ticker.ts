/** Ticks from a thread of its own: a page's own timers are held back while it is not looked at, and while it draws. */
let ticks: ReturnType<typeof setInterval> | null = null;

onmessage = ({ data }: MessageEvent<number | null>) => {
  if (ticks !== null) clearInterval(ticks);
  ticks = data === null ? null : setInterval(() => postMessage(null), data);
};
