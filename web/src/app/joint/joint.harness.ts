import { ComponentHarness } from '@angular/cdk/testing';

/** What a person sees of a joint and does to it; `left` and `right` are its outlines. */
export class JointHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-joint';

  private readonly sides = this.locatorForAll('.side');

  /** Titles that are drawn at a side. */
  async titles(side: 'left' | 'right'): Promise<string[]> {
    const titles = await this.titlesOf(side);
    return Promise.all(titles.map((title) => title.text()));
  }

  /** What each peg line says, from the top. */
  async pegs(): Promise<string[]> {
    const titles = await this.locatorForAll('svg g title')();
    return Promise.all(titles.map((title) => title.text()));
  }

  async choose(side: 'left' | 'right', title: string): Promise<void> {
    for (const one of await this.titlesOf(side)) if ((await one.text()) === title) return one.click();
    throw new Error(`no ${title} at the ${side}`);
  }

  /** Folds or opens the first folder that is drawn at a side. */
  async fold(side: 'left' | 'right'): Promise<void> {
    const [fold] = await this.locatorForAll(`${nth(side)} .fold`)();
    await fold?.click();
  }

  /** How many rows are marked as chosen: both sides of a line are. */
  async chosenRows(): Promise<number> {
    return (await this.locatorForAll('.row.chosen')()).length;
  }

  async rowsDrawn(): Promise<number> {
    return (await this.locatorForAll('.row')()).length;
  }

  /** What the sides are called. */
  async names(): Promise<string[]> {
    return Promise.all((await this.sides()).map(async (side) => (await side.getAttribute('aria-label')) ?? ''));
  }

  private titlesOf(side: 'left' | 'right') {
    return this.locatorForAll(`${nth(side)} .title`)();
  }
}

/** Between the sides stands the drawing of the pegs. */
function nth(side: 'left' | 'right'): string {
  return side === 'left' ? '.side:first-child' : '.side:last-child';
}
