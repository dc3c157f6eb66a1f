import { ComponentHarness, HarnessPredicate, TestKey, type BaseHarnessFilters } from '@angular/cdk/testing';
import { MatButtonHarness } from '@angular/material/button/testing';
import { MatCheckboxHarness } from '@angular/material/checkbox/testing';
import { MatInputHarness } from '@angular/material/input/testing';
import { MatMenuHarness } from '@angular/material/menu/testing';
import { MatSortHarness } from '@angular/material/sort/testing';

/** What a person sees of a list and does to it. */
export class ListHarness extends ComponentHarness {
  static readonly hostSelector = 'tn-list';

  static with(options: BaseHarnessFilters = {}): HarnessPredicate<ListHarness> {
    return new HarnessPredicate(ListHarness, options);
  }

  private readonly search = this.locatorFor(MatInputHarness.with({ selector: '[type=search]' }));
  private readonly sorting = this.locatorFor(MatSortHarness);
  private readonly bodyRows = this.locatorForAll('tbody tr');
  private readonly said = this.locatorForOptional('[role=status]');

  /** The cells of every row that is drawn, by the words in them. */
  async rows(): Promise<string[][]> {
    const rows = await this.bodyRows();
    return Promise.all(
      rows.map(async (row) => {
        const key = await row.getAttribute('data-key');
        const cells = await this.locatorForAll(`tbody tr[data-key="${key}"] td`)();
        return Promise.all(cells.map(async (cell) => (await cell.text()).replace(/\s+/g, ' ')));
      }),
    );
  }

  /** The words of one column in every row that is drawn. */
  async column(name: string): Promise<string[]> {
    const heads = await this.locatorForAll('thead th')();
    const names = await Promise.all(heads.map((head) => head.text()));
    return (await this.rows()).map((cells) => cells[names.indexOf(name)] ?? '');
  }

  async heads(): Promise<string[]> {
    const headers = await (await this.sorting()).getSortHeaders();
    return Promise.all(headers.map((header) => header.getLabel()));
  }

  async foot(): Promise<string[]> {
    const cells = await this.locatorForAll('tfoot td')();
    return Promise.all(cells.map((cell) => cell.text()));
  }

  /** How many are shown and chosen, in words; `null` where it is not known. */
  async counted(): Promise<string | null> {
    return (await (await this.said())?.text()) ?? null;
  }

  async filter(words: string): Promise<void> {
    await (await this.search()).setValue(words);
  }

  async sortBy(name: string): Promise<void> {
    const [header] = await (await this.sorting()).getSortHeaders({ label: name });
    await header?.click();
  }

  /** Ticks or unticks the row of this name, or all that are shown. */
  async tick(name = 'all that are shown'): Promise<void> {
    await (await this.checkbox(name)).toggle();
  }

  /** Whether all that are shown can be chosen. */
  async canTick(): Promise<boolean> {
    return !(await (await this.checkbox('all that are shown')).isDisabled());
  }

  async isTicked(name: string): Promise<boolean> {
    return (await this.checkbox(name)).isChecked();
  }

  private async checkbox(name: string): Promise<MatCheckboxHarness> {
    for (const box of await this.locatorForAll(MatCheckboxHarness)()) {
      if ((await box.getAriaLabel()) === `Choose ${name}`) return box;
    }
    throw new Error(`no checkbox for ${name}`);
  }

  async showOrHide(column: string): Promise<void> {
    const menu = await this.locatorFor(MatMenuHarness.with({ triggerText: 'Columns' }))();
    await menu.open();
    await menu.clickItem({ text: new RegExp(column) });
    await menu.close();
  }

  async showAll(): Promise<void> {
    await (await this.locatorFor(MatButtonHarness.with({ text: 'Show all' }))()).click();
  }

  /** Presses keys at the row that the person is at, or where nothing is yet. */
  async press(...keys: (string | TestKey)[]): Promise<void> {
    const at = await this.locatorForOptional('tbody tr[tabindex="0"]')();
    await (at ?? (await this.host())).sendKeys(...keys);
  }

  async pressWithShift(...keys: (string | TestKey)[]): Promise<void> {
    const at = await this.locatorForOptional('tbody tr[tabindex="0"]')();
    await (at ?? (await this.host())).sendKeys({ shift: true }, ...keys);
  }
}
