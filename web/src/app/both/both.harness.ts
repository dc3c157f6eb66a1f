import { ComponentHarness } from '@angular/cdk/testing';
import { MatButtonToggleHarness } from '@angular/material/button-toggle/testing';

/** A line of a forecast or a comparison, as it was and as it is. */
export class BothHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-both';

  /** Mark-up of the pages that are shown, from the left. */
  async pages(): Promise<string[]> {
    const frames = await this.locatorForAll('iframe')();
    return Promise.all(frames.map(async (frame) => (await frame.getAttribute('srcdoc')) ?? ''));
  }

  /** The words that are marked as differing, of each page. */
  async marked(): Promise<string[][]> {
    return (await this.pages()).map((page) => [...page.matchAll(/<mark[^>]*>(.*?)<\/mark>/g)].map((m) => m[1] ?? ''));
  }

  /** What is said of how much differs; '' where nothing is. */
  async said(): Promise<string> {
    return (await (await this.locatorForOptional('[role=status]')())?.text()) ?? '';
  }

  /** Files that differ, at a side that is called so. */
  async differing(side: string): Promise<string[]> {
    const files = await this.locatorForAll(`[aria-label="${side}"] .differs`)();
    return Promise.all(files.map(async (file) => (await file.text()).replace(/\s+/g, ' ')));
  }

  async asLearner(): Promise<void> {
    await (await this.locatorFor(MatButtonToggleHarness.with({ text: 'learner' }))()).check();
  }

  async fillWindow(): Promise<void> {
    await (await this.locatorFor('[aria-label="Over the whole window"]')()).click();
  }

  async fillsWindow(): Promise<boolean> {
    return (await this.host()).hasClass('full');
  }
}
