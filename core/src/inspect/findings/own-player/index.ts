import { PLAYER_PATH } from '../../../markup/player.ts';
import type { FindingKind } from '../contract.ts';

export const ownPlayer: FindingKind = {
  id: 'own-player',
  label: 'Pages that report by Treenail’s own player',
  weight: 'clutters',
  mends: [],
  why: () =>
    'It goes along with the package and is written anew with it; where no scripts are shown, nothing is reported.',
  *inCourse({ links }) {
    const loading = links.filter((l) => l.use === 'script' && l.path !== null && PLAYER_PATH.test(l.path));
    const [first] = loading;
    if (!first) return;
    yield {
      title: first.path ?? '',
      file: first.path,
      evidence: `${loading.length === 1 ? '1 page loads' : `${loading.length} pages load`} ${first.path ?? ''}`,
    };
  },
};
