import type { Profile } from '../../model/index.ts';
import { AS_PAGES } from '../imscp/profile.ts';

export const SITE_PROFILE: Profile = {
  id: 'site',
  label: 'Website',
  version: 1,
  ...AS_PAGES,
  kinds: {
    ...AS_PAGES.kinds,
    foreign: { carry: 'never', reason: 'a website has no parts that only another program reads' },
  },
};
