import type { Connector, PlatformKind } from '../contract.ts';

/** Where courses stand that are known from no platform: nothing is listed, fetched or delivered there. */
const nowhere: Connector = {
  about: async () => ({ queue: 0, each: 0 }),
  listCourses: async () => [],
  source: null,
  destination: null,
};

export const files: PlatformKind = { id: 'files', label: 'Files', connected: false, connect: () => nowhere };
