import type { MoveStep } from '@treenail/server/contract';

export const STEP_NAMES: Record<MoveStep, string> = {
  fetch: 'Fetch',
  look: 'Look inside',
  tidy: 'Tidy',
  fit: 'Dry fit',
  build: 'Build',
  deliver: 'Deliver',
  check: 'Check',
  'hand-over': 'Hand over',
};
