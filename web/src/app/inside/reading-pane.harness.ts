import { ComponentHarness } from '@angular/cdk/testing';
import { MatButtonToggleHarness } from '@angular/material/button-toggle/testing';

/** An item as it is read: its preview, and what is set of it. */
export class ReadingPaneHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-reading-pane';

  private readonly frame = this.locatorForOptional('iframe');

  /** The preview's own mark-up; `null` where there is none. */
  async page(): Promise<string | null> {
    return (await (await this.frame())?.getAttribute('srcdoc')) ?? null;
  }

  /** What the frame's content may do: nothing is `''`. */
  async rights(): Promise<string | null> {
    return (await (await this.frame())?.getAttribute('sandbox')) ?? null;
  }

  /** What is set, by its name. */
  async settings(): Promise<Map<string, string>> {
    const texts = async (selector: string) =>
      Promise.all((await this.locatorForAll(selector)()).map((element) => element.text()));
    const [names, values] = [await texts('dt'), await texts('dd')];
    return new Map(names.map((name, i) => [name, values[i] ?? '']));
  }

  /** The ways in which the item can be looked at. */
  async ways(): Promise<string[]> {
    const toggles = await this.locatorForAll(MatButtonToggleHarness)();
    return Promise.all(toggles.map((toggle) => toggle.getText()));
  }

  async look(way: string): Promise<void> {
    await (await this.locatorFor(MatButtonToggleHarness.with({ text: way }))()).check();
  }
}
