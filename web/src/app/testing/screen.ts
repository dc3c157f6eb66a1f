import type { ComponentFixture } from '@angular/core/testing';

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
    field.dispatchEvent(new Event('change'));
    await this.settle();
  }

  /** Gives virtual lists the height that a window would. */
  async unroll(): Promise<void> {
    for (const list of this.host.querySelectorAll<HTMLElement>('cdk-virtual-scroll-viewport')) {
      list.style.height = '400px';
    }
    window.dispatchEvent(new Event('resize'));
    await this.settle();
  }
}

export function wordsOf(element: Element | null): string {
  return element?.textContent.replace(/\s+/g, ' ').trim() ?? '';
}
