/** The views of a song, in the order in which they stand in the top bar; `path` is the last part of the address. */
export const VIEWS = [
  { path: 'ride', name: 'Ride' },
  { path: 'desk', name: 'Desk' },
  { path: 'passes', name: 'Passes' },
  { path: 'snapshots', name: 'Snapshots' },
  { path: 'guards', name: 'Guards' },
  { path: 'files', name: 'Files' },
] as const;

/** The view so many steps on from the one at an address, round the end. */
export function viewAfter(pathname: string, step: 1 | -1): string {
  const at = VIEWS.findIndex(({ path }) => pathname.endsWith(`/${path}`));
  return VIEWS[(at + step + VIEWS.length) % VIEWS.length]!.path;
}
