import { ComponentHarness, type TestKey } from '@angular/cdk/testing';

/** What parts two halves, as it is moved by keys. */
export class SplitterHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-splitter';

  /** Share of the lower half, percent, as it is told. */
  async percent(): Promise<number> {
    return Number(await (await this.host()).getAttribute('aria-valuenow'));
  }

  async press(key: TestKey, times = 1): Promise<void> {
    const host = await this.host();
    for (let i = 0; i < times; i++) await host.sendKeys(key);
  }
}
