import { ComponentHarness } from '@angular/cdk/testing';

/** The steps of a move, as a person reads and follows them. */
export class SpineHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-spine';

  private readonly steps = this.locatorForAll('a');

  /** Name, state and result of each step, in words. */
  async words(): Promise<string[]> {
    return Promise.all((await this.steps()).map(async (step) => (await step.text()).replace(/\s+/g, ' ')));
  }

  /** Where each step leads; `null` where it was not reached. */
  async links(): Promise<(string | null)[]> {
    return Promise.all((await this.steps()).map((step) => step.getAttribute('href')));
  }

  /** Which may not be gone to. */
  async disabled(): Promise<boolean[]> {
    return Promise.all((await this.steps()).map(async (step) => (await step.getAttribute('aria-disabled')) === 'true'));
  }

  /** Place of the step that is shown, from 0; -1 where none is. */
  async shown(): Promise<number> {
    const marks = await Promise.all((await this.steps()).map((step) => step.getAttribute('aria-current')));
    return marks.indexOf('step');
  }
}
