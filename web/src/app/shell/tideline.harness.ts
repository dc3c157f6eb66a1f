import { ComponentHarness } from '@angular/cdk/testing';
import { MatButtonHarness } from '@angular/material/button/testing';

/** The row along the foot, and the list that it opens into. */
export class TidelineHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-tideline';

  /** Of which courses jobs are shown in the row. */
  async courses(): Promise<string[]> {
    return this.texts('.tide .job b');
  }

  async links(): Promise<(string | null)[]> {
    const links = await this.locatorForAll('.tide a')();
    return Promise.all(links.map((link) => link.getAttribute('href')));
  }

  /** How many are at work, wait, failed, are newly done. */
  async sums(): Promise<string> {
    return (await (await this.toggle()).getText()).replace(/\s*[▾▴]$/, '');
  }

  async open(): Promise<void> {
    await (await this.toggle()).click();
  }

  /** Of which courses jobs stand in the full list; `null` while it is closed. */
  async listed(): Promise<string[] | null> {
    return (await this.locatorForOptional('.all')()) ? this.texts('.all .row b') : null;
  }

  /** Presses every button of these words in the full list. */
  async press(words: string): Promise<number> {
    const buttons = await this.locatorForAll(MatButtonHarness.with({ ancestor: '.all', text: words }))();
    for (const button of buttons) await button.click();
    return buttons.length;
  }

  private readonly toggle = this.locatorFor(MatButtonHarness.with({ selector: '.toggle' }));

  private async texts(selector: string): Promise<string[]> {
    return Promise.all((await this.locatorForAll(selector)()).map((element) => element.text()));
  }
}
