import { DUNLIN } from './dunlin.ts';
import { TARNHALL } from './tarnhall.ts';

/** A description that ships with Treenail, to learn from. */
export interface ExampleDescription {
  name: string;
  /** What it describes, as a person says it. */
  label: string;
  /** YAML. */
  text: string;
}

export const EXAMPLE_DESCRIPTIONS: readonly ExampleDescription[] = [TARNHALL, DUNLIN];
