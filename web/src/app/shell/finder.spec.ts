import { HarnessLoader } from '@angular/cdk/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { MatAutocomplete } from '@angular/material/autocomplete';
import { MatAutocompleteHarness } from '@angular/material/autocomplete/testing';
import { By } from '@angular/platform-browser';
import { Router, provideRouter } from '@angular/router';
import type { SearchHit } from '@treenail/server/contract';
import { firstValueFrom, of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { Screen } from '../testing/screen';
import { Finder } from './finder';

const FOUND: SearchHit[] = [
  { kind: 'course', title: 'BTB 210 Wooden Boat Repair', detail: 'Autumn 2026', link: '/courses?words=BTB' },
  { kind: 'item', title: 'Scarf joints', detail: 'page in BTB 210', link: '/moves/2/look?item=p1' },
];

describe('The search in the top bar', () => {
  let loader: HarnessLoader;
  let screen: Screen<Finder>;
  let asked: string[];
  let answer: () => Observable<SearchHit[]>;
  let led: string[];
  let heard: () => void;
  beforeEach(() => {
    asked = [];
    heard = () => undefined;
    led = [];
    answer = () => of(FOUND);
    const api: Partial<Api> = {
      search({ q = '' }) {
        asked.push(q);
        heard();
        return answer();
      },
    };
    TestBed.configureTestingModule({ providers: [provideRouter([]), { provide: Api, useValue: api }] });
    spyOn(TestBed.inject(Router), 'navigateByUrl').and.callFake((url) => {
      led.push(String(url));
      return Promise.resolve(true);
    });
    screen = new Screen(TestBed.createComponent(Finder));
    loader = TestbedHarnessEnvironment.loader(screen.fixture);
  });

  /** Writes into the box and waits until its words are asked for, which is a while after the last key. */
  const look = async (words: string) => {
    const box = await loader.getHarness(MatAutocompleteHarness);
    const heardOf = new Promise<void>((done) => (heard = done));
    await box.enterText(words);
    await heardOf;
    await screen.settle();
    return box;
  };

  /** The same, until there is something to choose from. */
  const find = async (words: string) => {
    const list = screen.fixture.debugElement.query(By.directive(MatAutocomplete)).componentInstance as MatAutocomplete;
    const opened = firstValueFrom(list.opened);
    const box = await look(words);
    await opened;
    return box;
  };

  it('finds things of all kinds, says what each is, and leads there', async () => {
    const box = await find('scarf');
    const options = await box.getOptions();
    expect(await Promise.all(options.map((o) => o.getText()))).toEqual([
      'BTB 210 Wooden Boat Repair course, Autumn 2026',
      'Scarf joints item, page in BTB 210',
    ]);
    await options[1]?.click();
    expect(led).toEqual(['/moves/2/look?item=p1']);
    // Nothing of the last search is left to be searched again.
    expect(await box.getValue()).toBe('');
  });

  it('does not ask for a single letter, nor twice for the same words', async () => {
    await (await loader.getHarness(MatAutocompleteHarness)).enterText('s');
    await look('carf');
    expect(asked).toEqual(['scarf']);
  });

  it('goes on after a search that failed', async () => {
    answer = () => throwError(() => new Error('down'));
    const [said] = await (await find('scarf')).getOptions();
    expect([await said?.getText(), await said?.isDisabled()]).toEqual([
      jasmine.stringContaining('Something went wrong'),
      true,
    ]);
    answer = () => of(FOUND);
    expect((await (await look('s')).getOptions()).length).toBe(2);
  });

  it('says that nothing is called so', async () => {
    answer = () => of([]);
    const options = await (await find('scarf')).getOptions();
    expect(await Promise.all(options.map((o) => o.getText()))).toEqual(['Nothing is called that.']);
    // It can not be chosen, but it is read.
    const words = document.querySelector('.mat-mdc-option .mdc-list-item__primary-text');
    expect(words && getComputedStyle(words).opacity).toBe('1');
  });

  it('shows its key only while it is not in use', async () => {
    await screen.settle();
    expect(screen.words('kbd')).toBe('/');
    screen.fixture.componentInstance.focus();
    screen.host.querySelector('input')?.dispatchEvent(new Event('focus'));
    await screen.settle();
    expect(screen.host.querySelector('kbd')).toBeNull();
  });
});
