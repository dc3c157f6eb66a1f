import { ComponentHarness } from '@angular/cdk/testing';

/** How many of each outcome, as a person reads it. */
export class TotalsHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-totals';

  /** `3 whole`, and so on, in their order. */
  async parts(): Promise<string[]> {
    const parts = await this.locatorForAll('.part')();
    return Promise.all(parts.map(async (part) => (await part.text()).replace(/\s+/g, ' ')));
  }

  /** How many outcomes the bar has a field for: what there is none of has none. */
  async fields(): Promise<number> {
    return (await this.locatorForAll('.bar i')()).length;
  }
}
