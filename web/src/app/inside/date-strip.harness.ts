import { ComponentHarness, TestKey } from '@angular/cdk/testing';

/** The dates of a course on one strip. */
export class DateStripHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-date-strip';

  private readonly found = this.locatorForAll('g[role=button]');

  /** Each item with its dates, in words. */
  async rows(): Promise<string[]> {
    const rows = await this.found();
    return Promise.all(rows.map(async (row) => (await row.getAttribute('aria-label')) ?? ''));
  }

  /** Opens a row, by a click or from the keyboard. */
  async open(row: number, by: 'click' | 'key'): Promise<void> {
    const one = (await this.found())[row];
    if (by === 'click') await one?.dispatchEvent('click');
    else await one?.sendKeys(TestKey.ENTER);
  }
}
