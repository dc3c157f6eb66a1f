import type { FindingKind } from '../contract.ts';
import { about, meant } from '../link-parts.ts';

/** Loopback and private networks (RFC 1122, 1918, 4193, 6762), and paths of a disk. */
const OWN =
  /^(?:https?:)?\/\/(?:[^/?#@]*@)?(?:localhost|[^/?#:]+\.local|127\.\d+\.\d+\.\d+|10\.\d+\.\d+\.\d+|192\.168\.\d+\.\d+|172\.(?:1[6-9]|2\d|3[01])\.\d+\.\d+|\[::1\]|\[f[cd][0-9a-f:]+\])(?=[:/?#]|$)|^file:|^[a-z]:[\\/]/i;

export const linkOwnMachine: FindingKind = about({
  id: 'link-own-machine',
  label: 'Addresses of somebody’s own machine',
  weight: 'breaks',
  why: () => 'Such an address leads to a disk, a machine or a network of whoever wrote it; nobody else finds it there.',
  states: ['outside', 'broken'],
  fits: (link) => OWN.test(link.value),
  suggest: meant,
});

/** Whether it is told as an address of somebody's own machine. */
export const isOwnMachine = (value: string) => OWN.test(value);
