import { ComponentHarness } from '@angular/cdk/testing';

/** The mark of an outcome. */
export class PegHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-peg';

  private readonly drawing = this.locatorFor('svg');

  async outcome(): Promise<string | null> {
    return (await this.drawing()).getAttribute('aria-label');
  }

  /** What it is drawn of, which tells outcomes apart without their colour. */
  async shape(): Promise<string> {
    const drawn = await this.locatorForAll('circle, path')();
    const told = await Promise.all(
      drawn.map(async (one) => {
        const names = ['d', 'r', 'fill', 'stroke-dasharray'];
        return (await Promise.all(names.map((name) => one.getAttribute(name)))).join(' ');
      }),
    );
    return told.join('; ');
  }
}
