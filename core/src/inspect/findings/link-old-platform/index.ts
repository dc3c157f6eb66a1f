import type { FindingKind } from '../contract.ts';
import { meant, about } from '../link-parts.ts';

export const linkOldPlatform: FindingKind = about({
  id: 'link-old-platform',
  label: 'Links back into the old platform',
  weight: 'breaks',
  why: () => 'They stop working when the old platform is switched off.',
  states: ['platform'],
  suggest: meant,
});
