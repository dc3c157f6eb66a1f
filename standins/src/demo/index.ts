export { BTB210 } from './btb210.ts';
export { EST120 } from './est120.ts';
export { NAV101 } from './nav101.ts';
export { fenwrightPlans, marrowickPlans, rehearsalPlans } from './others.ts';
export * from './plan.ts';
