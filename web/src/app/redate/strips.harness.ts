import { ComponentHarness, TestKey, type TestElement } from '@angular/cdk/testing';

/** The two strips of dates: what a person hears of the dots of the lower one, and does to them. */
export class DateStripsHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-date-strips';

  private readonly dots = this.locatorForAll('.dot');
  private readonly names = this.locatorForAll('svg .name');

  /** Each dot, with the day at which it stands. */
  async told(): Promise<string[]> {
    const dots = await this.dots();
    return Promise.all(
      dots.map(async (dot) => `${await dot.getAttribute('aria-label')}: ${await dot.getAttribute('aria-valuetext')}`),
    );
  }

  /** What stands over each strip. */
  async heads(): Promise<string[]> {
    return Promise.all((await this.names()).map(async (name) => (await name.text()).replace(/\s+/g, ' ').trim()));
  }

  /** Dots that Tab comes to. */
  async focusable(): Promise<number> {
    const stops = await Promise.all((await this.dots()).map((dot) => dot.getAttribute('tabindex')));
    return stops.filter((stop) => stop === '0').length;
  }

  async press(dot: number, key: 'left' | 'right' | 'up' | 'down', shift = false): Promise<void> {
    const keys = {
      left: TestKey.LEFT_ARROW,
      right: TestKey.RIGHT_ARROW,
      up: TestKey.UP_ARROW,
      down: TestKey.DOWN_ARROW,
    };
    await (await this.dot(dot)).sendKeys({ shift }, keys[key]);
  }

  async choose(dot: number): Promise<void> {
    await (await this.dot(dot)).dispatchEvent('click');
  }

  private async dot(at: number): Promise<TestElement> {
    const found = (await this.dots())[at];
    if (!found) throw new Error(`there is no dot ${at}`);
    return found;
  }
}
