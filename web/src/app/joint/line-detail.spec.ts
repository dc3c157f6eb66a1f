import { TestBed } from '@angular/core/testing';
import { line } from '../testing/made';
import { Screen } from '../testing/screen';
import { LineDetail } from './line-detail';

describe('Both versions of a line', () => {
  const open = async (inputs: Record<string, unknown>) => {
    const screen = new Screen(TestBed.createComponent(LineDetail));
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
    const [was, is] = [...screen.host.querySelectorAll(':scope > div')];
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
    expect(is?.querySelector('h3')?.textContent.replace(/\s+/g, ' ').trim()).toBe(
      'reworked, as discussion foretold whole',
    );
    expect([...(is?.querySelectorAll('.tag.lost') ?? [])].length).toBe(4);
  });

  it('says nothing of a forecast that was right', async () => {
    const screen = await open({ line: line('Talk', 'left behind', { predicted: 'left behind', as: null }) });
    expect(screen.host.textContent).not.toContain('foretold');
  });

  it('has other words where the sides are no source and destination', async () => {
    const extra = line('Talk', 'extra', { source: null });
    expect((await open({ line: extra })).words('.quiet:not(span)')).toBe('Nothing of this name was sent.');
    const says = { absent: 'It is only in the other.', outcomes: { extra: 'only there' } };
    const screen = await open({ line: extra, says });
    expect(screen.host.textContent).toContain('It is only in the other.');
    expect(screen.texts('h3')[1]).toBe('only there');
  });

  it('says what to do while none is chosen', async () => {
    expect((await open({ line: null })).words('.none')).toBe('Choose a row to see both versions side by side.');
  });
});
