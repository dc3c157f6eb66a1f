import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { MatCheckboxHarness } from '@angular/material/checkbox/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import { AS_IT_WAS, type Along } from '@treenail/core';
import type { AlongAnswer } from '@treenail/server/contract';
import { of, throwError } from 'rxjs';
import { Api } from '../data/api';
import { move } from '../testing/made';
import { Screen } from '../testing/screen';
import { GoesAlong } from './goes-along';

const CALC = 'https://calc.example/launch';

describe('How what goes is to arrive', () => {
  let told: AlongAnswer;
  let set: Along[];
  let refuses: boolean;

  beforeEach(() => {
    [set, refuses] = [[], false];
    told = {
      ...{ now: AS_IT_WAS, posts: 2, hidden: 1, trouble: '' },
      tools: [
        { address: CALC, titles: ['Fastening calculator'], known: null },
        { address: 'https://maps.example/launch', titles: ['Marsh map'], known: 'Chart of the marsh' },
      ],
      connected: [{ name: 'Plank calculator', address: 'https://tools.example/planks/' }],
    };
  });

  async function open() {
    const api: Partial<Api> = {
      along: () => of(told),
      setAlong: (_id, along) => {
        set.push(along);
        return refuses ? throwError(() => new Error('refused')) : of({ ...told, now: along });
      },
    };
    TestBed.configureTestingModule({ providers: [{ provide: Api, useValue: api }] });
    const fixture = TestBed.createComponent(GoesAlong);
    const screen = new Screen(fixture);
    await screen.set({ move: move(3), open: true });
    await screen.drawn();
    const loader = TestbedHarnessEnvironment.loader(fixture);
    return { screen, selects: await loader.getAllHarnesses(MatSelectHarness), loader };
  }

  it('is chosen: what learners see, first posts, and which tool is started', async () => {
    const { screen, selects, loader } = await open();
    expect(screen.host.textContent).toContain('“Marsh map”: connected there as Chart of the marsh');
    await selects[0]?.clickOptions({ text: /^nothing of it yet/ });
    await (await loader.getHarness(MatCheckboxHarness)).uncheck();
    await selects[1]?.clickOptions({ text: /^Plank calculator/ });
    const tools = { [CALC]: 'https://tools.example/planks/' };
    expect(set.at(-1)).toEqual({ shown: 'hidden', posts: false, tools });
    await selects[1]?.clickOptions({ text: /not connected there/ });
    expect(set.at(-1)?.tools).toEqual({});
  });

  it('says what is not known, and why it was refused', async () => {
    told = { ...told, connected: null, trouble: 'New could not be asked', hidden: 0 };
    refuses = true;
    const { screen, selects } = await open();
    expect(screen.host.textContent).toContain('not known whether it is connected there');
    expect(screen.host.textContent).toContain('New could not be asked');
    expect(selects.length).toBe(1);
    await selects[0]?.clickOptions({ text: /^nothing of it yet/ });
    await screen.drawn();
    expect(screen.words('.error')).not.toBe('');
  });
});
