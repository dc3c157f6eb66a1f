import { ChangeDetectionStrategy, Component, signal, viewChild } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { forEachDiagnostic } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import { problem, type Problem } from '@treenail/core';
import { Screen } from '../testing/screen';
import { Editor } from './editor';

@Component({
  selector: 'tn-writes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Editor],
  template: `<div style="height: 90px"><tn-editor [(text)]="text" [problems]="problems()" /></div>`,
})
class Writes {
  readonly text = signal('name: Dunlin\ncourse: folio.xml\n');
  readonly problems = signal<readonly Problem[]>([]);
  readonly editor = viewChild.required(Editor);
}

describe('The text of a description', () => {
  let screen: Screen<Writes>;
  let view: EditorView;
  const writes = () => screen.fixture.componentInstance;
  const marks = () => {
    const found: [number, string][] = [];
    forEachDiagnostic(view.state, ({ message }, from) => found.push([view.state.doc.lineAt(from).number, message]));
    return found;
  };

  beforeEach(async () => {
    screen = new Screen(TestBed.createComponent(Writes));
    document.body.append(screen.host);
    await screen.settle();
    const found = EditorView.findFromDOM(screen.host.querySelector<HTMLElement>('.cm-editor') ?? screen.host);
    if (!found) throw new Error('no editor');
    view = found;
  });
  afterEach(() => screen.host.remove());

  it('goes both ways: what is written is told, what is put there is shown', async () => {
    expect(view.state.doc.toString()).toBe(writes().text());
    view.dispatch({ changes: { from: 0, insert: '# mine\n' } });
    expect(writes().text()).toBe('# mine\nname: Dunlin\ncourse: folio.xml\n');
    writes().text.set('name: Another\n');
    await screen.settle();
    expect(view.state.doc.toString()).toBe('name: Another\n');
  });

  it('has what is wrong at its line, and at its last where there is no such line any more', async () => {
    writes().problems.set([
      { ...problem('description-path', 'No such path.', {}, 'Write another.'), line: 2 },
      { ...problem('description-name', 'No such records.', {}, 'Name them.'), line: 40 },
      problem('description-course', 'No course.', {}, 'Say where it is.'),
    ]);
    await screen.settle();
    expect(marks().sort()).toEqual([
      [1, 'No course. Say where it is.'],
      [2, 'No such path. Write another.'],
      [3, 'No such records. Name them.'],
    ]);
    writes().problems.set([]);
    await screen.settle();
    expect(marks()).toEqual([]);
  });

  it('puts the cursor into the line that is asked for', () => {
    writes().editor().goTo(2);
    expect(view.state.doc.lineAt(view.state.selection.main.head).number).toBe(2);
    writes().editor().goTo(-3);
    expect(view.state.selection.main.head).toBe(0);
    writes().editor().goTo(900);
    expect(view.state.doc.lineAt(view.state.selection.main.head).number).toBe(3);
  });

  it('has a name for those who hear it', () => {
    expect(screen.host.querySelector('.cm-content')?.getAttribute('aria-label')).toBe('Description');
  });
});
