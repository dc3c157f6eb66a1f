import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import type { Course, Item, Preview } from '@treenail/core';
import { of, type Observable } from 'rxjs';
import { TestBed } from '@angular/core/testing';
import { line } from '../testing/made';
import { Screen } from '../testing/screen';
import { AS_CHECKED, AS_FORETOLD, Both, type Side } from './both';
import { BothHarness } from './both.harness';
import { nextNotWhole } from './line-keys';

describe('Both versions of a line', () => {
  const open = async (inputs: Record<string, unknown>) => {
    const screen = new Screen(TestBed.createComponent(Both));
    await screen.set(inputs);
    return screen;
  };

  it('stand side by side, setting by setting, and what differs is said', async () => {
    const screen = await open({
      line: line('Log book', 'reworked', {
        kind: 'assignment',
        as: 'discussion',
        predicted: 'whole',
        reasons: ['arrived as discussion'],
        settings: [
          { name: 'points', was: 5, is: 5, outcome: 'whole', reason: '' },
          { name: 'due', was: '2026-10-02', is: null, outcome: 'left behind', reason: 'it is not there' },
          { name: 'attempts', was: 2, is: 3, outcome: 'reworked', reason: 'has another value' },
          { name: 'attachments', was: ['m/a/rope.pdf', 'm/knot.pdf'], is: null, outcome: 'left behind', reason: 'x' },
          { name: 'draws', was: { b1: '3' }, is: null, outcome: 'left behind', reason: 'x' },
          { name: 'instructions', was: '<p>No <b>notes</b></p>', is: null, outcome: 'left behind', reason: 'x' },
        ],
        parts: [{ title: 'One', outcome: 'reworked', reason: '3 points became 1' }],
      }),
    });
    const [was, is] = [...screen.host.querySelectorAll('.side')];
    const facts = (side: Element | undefined) =>
      [...(side?.querySelectorAll('dd') ?? [])].map((d) => d.textContent.trim().replace(/\s+/g, ' '));
    expect(facts(was)).toEqual(['5', 'Fri 2 Oct 2026', '2', 'rope.pdf, knot.pdf', '3 of b1', 'No notes']);
    expect(facts(is)).toEqual([
      '5',
      'left behind it is not there',
      'reworked has another value',
      'left behind x',
      'left behind x',
      'left behind x',
      '3 points became 1',
    ]);
    expect([screen.words('header'), screen.words('header .tag')]).toEqual([
      jasmine.stringContaining('reworked, as discussion'),
      'foretold whole',
    ]);
    expect([...(is?.querySelectorAll('.tag.lost') ?? [])].length).toBe(4);
  });

  it('says nothing of a forecast that was right', async () => {
    const screen = await open({ line: line('Talk', 'left behind', { predicted: 'left behind', as: null }) });
    expect(screen.host.textContent).not.toContain('foretold');
  });

  it('has other words where the sides are no source and destination', async () => {
    const extra = line('Talk', 'extra', { source: null });
    expect((await open({ line: extra })).words('.quiet:not(span)')).toBe('Nothing of this name was sent.');
    const says = { ...AS_CHECKED, absent: 'It is only in the other.', outcomes: { extra: 'only there' } };
    const screen = await open({ line: extra, says });
    expect(screen.host.textContent).toContain('It is only in the other.');
    expect(screen.words('header')).toContain('only there');
  });

  it('says what to do while none is chosen', async () => {
    expect((await open({ line: null })).words('.none')).toBe('Choose a row to see both versions side by side.');
  });

  describe('with what is in them', () => {
    const page = (id: string, file: string): Item => ({
      kind: 'page',
      id,
      title: 'Knots',
      definitionPath: file,
      settings: { embeds: ['m/knot.png'] },
      file,
    });
    const courseOf = (item: Item, sha256: string): Course => ({
      title: 'Rigging',
      origin: { format: 'cc', version: '1.3', untouched: true },
      metadata: { keywords: [] },
      outline: [],
      items: [item],
      files: [
        { path: 'a.html', size: 300, mediaType: 'text/html', role: 'content', sha256: 'a' },
        { path: 'm/knot.png', size: 2000, mediaType: 'image/png', role: 'content', sha256 },
      ],
    });
    let asked: [string, string, boolean][];
    const side = (name: string, course: Course, preview: Observable<Preview>): Side => ({
      course,
      preview: (item, learner) => {
        asked.push([name, item, learner]);
        return preview;
      },
    });
    const html = (text: string): Observable<Preview> => of({ form: 'page', html: text });
    const checked = line('Knots', 'reworked', { source: 'item:p', arrived: 'item:q', predicted: 'whole' });
    beforeEach(() => (asked = []));
    const harness = (screen: Screen<Both>) => TestbedHarnessEnvironment.harnessForFixture(screen.fixture, BothHarness);

    it('are shown as pages with what differs marked, and say how much that is', async () => {
      const screen = await open({
        line: checked,
        left: side('left', courseOf(page('p', 'a.html'), 'x'), html('<p>Tie a bowline.</p>')),
        right: side('right', courseOf(page('q', 'a.html'), 'x'), html('<p>Tie a hitch.</p>')),
      });
      expect(asked).toEqual([
        ['left', 'p', false],
        ['right', 'q', false],
      ]);
      const both = await harness(screen);
      expect(await both.marked()).toEqual([['bowline.'], ['hitch.']]);
      expect(await both.said()).toBe('1 place where the words differ');
      expect(screen.host.querySelectorAll('iframe[sandbox=""]').length).toBe(2);
    });

    it('claim no more at a forecast than was looked at', async () => {
      const foretold: Record<string, unknown> = line('Knots', 'reworked', { source: 'item:p' });
      delete foretold['predicted'];
      const screen = await open({
        line: foretold,
        says: AS_FORETOLD,
        left: side('left', courseOf(page('p', 'a.html'), 'x'), html('<p>Tar</p>')),
        right: side('right', courseOf(page('p', 'a.html'), 'x'), html('<p>Tar</p>')),
      });
      expect(screen.words('[role=status]')).toBe('the same words in the working copy, before it is carried');
      expect(screen.words('[aria-label="As it goes"] iframe')).toBe('');
      expect(screen.host.querySelector('[aria-label="As it is"]')).toBeNull();
    });

    it('tell files apart by their bytes', async () => {
      const screen = await open({
        line: checked,
        left: side('left', courseOf(page('p', 'a.html'), 'x'), html('')),
        right: side('right', courseOf(page('q', 'a.html'), 'y'), html('')),
      });
      const both = await harness(screen);
      expect(await both.differing('As it was')).toEqual(['knot.png 2.0 kB']);
      expect(await both.differing('As it is')).toEqual(['knot.png 2.0 kB']);
    });

    it('are shown as a learner meets them when asked to', async () => {
      const screen = await open({
        line: checked,
        left: side('left', courseOf(page('p', 'a.html'), 'x'), html('')),
        right: null,
      });
      await (await harness(screen)).asLearner();
      expect(asked.at(-1)).toEqual(['left', 'p', true]);
    });

    it('say why one is not shown, and show the other all the same', async () => {
      const screen = await open({
        line: checked,
        left: side('left', courseOf(page('p', 'a.html'), 'x'), html('<p>Tar</p>')),
        right: side('right', courseOf(page('q', 'a.html'), 'x'), of({ form: 'none', why: 'there was no room' })),
      });
      expect(await (await harness(screen)).pages()).toEqual(['<p>Tar</p>']);
      expect(screen.words('[aria-label="As it is"] p:last-child')).toBe('Not shown: there was no room.');
    });

    it('fill the window on demand, and go back by Escape', async () => {
      const screen = await open({ line: checked });
      const both = await harness(screen);
      await both.fillWindow();
      expect(await both.fillsWindow()).toBeTrue();
      document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
      await screen.settle();
      expect(await both.fillsWindow()).toBeFalse();
    });
  });
});

describe('The next line that is not whole', () => {
  const lines = ['whole', 'reworked', 'whole', 'left behind'].map((outcome) => ({ outcome }));
  it('is found going on and back, and not beyond the ends', () => {
    expect([nextNotWhole(lines, null, 1), nextNotWhole(lines, 1, 1), nextNotWhole(lines, 3, 1)]).toEqual([1, 3, null]);
    expect([nextNotWhole(lines, 3, -1), nextNotWhole(lines, 1, -1), nextNotWhole(lines, null, -1)]).toEqual([
      1,
      null,
      3,
    ]);
  });
});
