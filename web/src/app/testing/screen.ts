import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import type { ComponentFixture } from '@angular/core/testing';
import { MatMenuHarness } from '@angular/material/menu/testing';
import { MatSelectHarness } from '@angular/material/select/testing';

/** What specs read on a component and do to it, as a person would: by its words. */
export class Screen<T> {
  readonly fixture: ComponentFixture<T>;
  readonly host: HTMLElement;

  constructor(fixture: ComponentFixture<T>) {
    this.fixture = fixture;
    this.host = fixture.nativeElement as HTMLElement;
  }

  /** Waits until everything that was set is on the screen. */
  async settle(): Promise<void> {
    await this.fixture.whenStable();
    this.fixture.detectChanges();
    await this.fixture.whenStable();
  }

  /** Waits until something is so, looking at every frame; the test's own limit ends it. */
  async until(isSo: () => boolean): Promise<void> {
    while (!isSo()) {
      await new Promise((next) => requestAnimationFrame(next));
      this.fixture.detectChanges();
    }
  }

  async set(inputs: Readonly<Record<string, unknown>>): Promise<void> {
    for (const [name, value] of Object.entries(inputs)) this.fixture.componentRef.setInput(name, value);
    await this.settle();
  }

  /** The words of the first element that fits; '' where there is none. */
  words(selector: string): string {
    return wordsOf(this.host.querySelector(selector));
  }

  /** The words of every element that fits. */
  texts(selector: string): string[] {
    return [...this.host.querySelectorAll(selector)].map(wordsOf);
  }

  button(says: string): HTMLButtonElement {
    const found = [...this.host.querySelectorAll('button')].find((b) => wordsOf(b).includes(says));
    if (!found) throw new Error(`no button “${says}”`);
    return found;
  }

  async press(says: string): Promise<void> {
    this.button(says).click();
    await this.settle();
  }

  /** Chooses in a list, or writes into a field, and leaves it. */
  async fill(selector: string, value: string): Promise<void> {
    const field = this.host.querySelector<HTMLInputElement | HTMLSelectElement>(selector);
    if (!field) throw new Error(`no ${selector}`);
    field.value = value;
    for (const event of ['input', 'change']) field.dispatchEvent(new Event(event));
    await this.settle();
  }

  /** Chooses in a list of choices, by what it is called and the words of the choice. */
  async choose(label: string, words: string | RegExp): Promise<void> {
    await (await this.select(label)).clickOptions({ text: words });
    await this.settle();
  }

  /** What is chosen in a list of choices; `null` where there is no such list. */
  async chosen(label: string): Promise<string | null> {
    return this.host.querySelector(`mat-select[aria-label="${label}"]`)
      ? (await this.select(label)).getValueText()
      : null;
  }

  private select(label: string): Promise<MatSelectHarness> {
    const loader = TestbedHarnessEnvironment.documentRootLoader(this.fixture);
    return loader.getHarness(MatSelectHarness.with({ selector: `[aria-label="${label}"]` }));
  }

  /** Chooses in the menu that a button opens. */
  async pick(button: string, words: string | RegExp): Promise<void> {
    const loader = TestbedHarnessEnvironment.documentRootLoader(this.fixture);
    const menu = await loader.getHarness(MatMenuHarness.with({ triggerText: button }));
    await menu.open();
    await menu.clickItem({ text: words });
    await this.settle();
  }

  /** Gives virtual lists the height that a window would. */
  async unroll(): Promise<void> {
    for (const list of this.host.querySelectorAll<HTMLElement>('cdk-virtual-scroll-viewport')) {
      list.style.height = '400px';
    }
    window.dispatchEvent(new Event('resize'));
    await this.drawn();
  }

  /** Waits until lists have drawn what there is room for: they measure in one frame, ask for rows in the next. */
  async drawn(): Promise<void> {
    for (let frame = 0; frame < 3; frame++) {
      await this.settle();
      await new Promise((next) => requestAnimationFrame(next));
    }
    await this.settle();
  }
}

export function wordsOf(element: Element | null): string {
  return element?.textContent.replace(/\s+/g, ' ').trim() ?? '';
}
