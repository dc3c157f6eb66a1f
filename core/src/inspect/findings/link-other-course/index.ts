import type { FindingKind } from '../contract.ts';
import { meant, about } from '../link-parts.ts';

export const linkOtherCourse: FindingKind = about({
  id: 'link-other-course',
  label: 'Links into other courses',
  weight: 'breaks',
  why: () => 'Another course is not moved with this one; readers are sent to the old platform.',
  states: ['elsewhere'],
  suggest: meant,
});
