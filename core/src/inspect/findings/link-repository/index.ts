import type { FindingKind } from '../contract.ts';
import { toFile, meant, about } from '../link-parts.ts';

export const linkRepository: FindingKind = about({
  id: 'link-repository',
  label: 'Links into the shared repository',
  weight: 'breaks',
  why: () => 'The repository belongs to the old platform. What is used from it has to be copied in.',
  mends: ['copy-in', 'retarget', 'give-file', 'unlink', 'remove'],
  states: ['repository'],
  suggest(link, context) {
    const suggestions = link.near ? [toFile(link.near.path)] : meant(link, context);
    return [...suggestions, { mend: 'copy-in', params: {}, words: 'Copy the file in' }];
  },
});
