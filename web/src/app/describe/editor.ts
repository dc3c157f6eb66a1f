import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  afterNextRender,
  effect,
  input,
  model,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { Problem } from '@treenail/core';
import { basicSetup } from 'codemirror';

const THEME = EditorView.theme({
  '&': { height: '100%', backgroundColor: 'var(--surface)', color: 'var(--ink)', fontSize: '12.5px' },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '19px' },
  '.cm-content': { caretColor: 'var(--ink)' },
  '&.cm-focused': { outline: '2px solid var(--spruce)', outlineOffset: '-2px' },
  '.cm-gutters': { backgroundColor: 'var(--ground)', color: 'var(--quiet)', borderRight: '1px solid var(--line)' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--sunk)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { backgroundColor: 'var(--spruce-pale) !important' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-panels, .cm-tooltip': { backgroundColor: 'var(--surface)', color: 'var(--ink)', borderColor: 'var(--line)' },
});
const COLOURS = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--spruce)', fontWeight: '600' },
  { tag: [tags.string, tags.content], color: 'var(--ink)' },
  { tag: [tags.comment, tags.lineComment], color: 'var(--quiet)', fontStyle: 'italic' },
  { tag: [tags.labelName, tags.typeName, tags.keyword], color: 'var(--heather)' },
  { tag: [tags.punctuation, tags.separator, tags.squareBracket, tags.brace], color: 'var(--quiet)' },
]);

/** The text of a description, with what is wrong with it in its margin. */
@Component({
  selector: 'tn-editor',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: '<div #host class="host"></div>',
  styles: ':host, .host { display: block; height: 100%; min-height: 0; overflow: hidden; }',
})
export class Editor implements OnDestroy {
  readonly text = model.required<string>();
  readonly problems = input<readonly Problem[]>([]);
  private readonly host = viewChild.required<ElementRef<HTMLElement>>('host');
  private view: EditorView | null = null;

  constructor() {
    afterNextRender(() => {
      this.view = new EditorView({
        parent: this.host().nativeElement,
        state: EditorState.create({
          doc: this.text(),
          extensions: [
            basicSetup,
            yaml(),
            lintGutter(),
            THEME,
            syntaxHighlighting(COLOURS),
            EditorView.lineWrapping,
            EditorView.contentAttributes.of({ 'aria-label': 'Description' }),
            EditorView.updateListener.of((update) => {
              if (update.docChanged) this.text.set(update.state.doc.toString());
            }),
          ],
        }),
      });
      this.mark(this.problems());
    });
    effect(() => {
      const text = this.text();
      const { view } = this;
      if (view && view.state.doc.toString() !== text) {
        view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
      }
    });
    effect(() => this.mark(this.problems()));
  }

  ngOnDestroy(): void {
    this.view?.destroy();
  }

  /** Brings a line into view and puts the cursor there. */
  goTo(line: number): void {
    const { view } = this;
    if (!view) return;
    const { from } = view.state.doc.line(Math.min(Math.max(1, line), view.state.doc.lines));
    view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) });
    view.focus();
  }

  private mark(problems: readonly Problem[]): void {
    const { view } = this;
    if (!view) return;
    const { doc } = view.state;
    const marks = problems.map(({ line = 1, message, action }): Diagnostic => {
      const { from, to } = doc.line(Math.min(Math.max(1, line), doc.lines));
      return { from, to, severity: 'error', message: `${message} ${action}` };
    });
    view.dispatch(setDiagnostics(view.state, marks));
  }
}
