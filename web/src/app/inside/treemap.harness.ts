import { ComponentHarness } from '@angular/cdk/testing';

/** What is in a package, drawn as large as it is. */
export class TreemapHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-inventory-view';

  /** Each field by its words, with its area in square units of the drawing. */
  async fields(): Promise<Map<string, number>> {
    const labels = await this.locatorForAll('svg g')();
    const boxes = await this.locatorForAll('svg g rect')();
    const named = await Promise.all(labels.map((field) => field.getAttribute('aria-label')));
    const areas = await Promise.all(
      boxes.map(async (box) => Number(await box.getAttribute('width')) * Number(await box.getAttribute('height'))),
    );
    return new Map(named.map((name, i) => [(name ?? '').replace(/\s/g, ' '), areas[i] ?? 0]));
  }

  /** Fields that lead to an item. */
  async usable(): Promise<number> {
    return (await this.locatorForAll('g.usable')()).length;
  }
}
