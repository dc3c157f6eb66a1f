export { JoinPlan, KeepOf, doublesOf, joined, type Double, type Joined } from './join.ts';
export * from './plan.ts';
export { proposeSplits, type Proposal } from './propose.ts';
export { partAsCourse, splitOf, type CutFate, type Part } from './split.ts';
export { reweighed, type Reweighed } from './weights.ts';
