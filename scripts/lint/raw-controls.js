/**
 * Controls in templates are Angular Material's or the CDK's, under our theme: what the browser gives bare is refused
 * unless it bears the directive that makes it one. A handful of places may be otherwise, each for a reason.
 */
const NEEDS = {
  input: ['matInput', 'matDatepicker', 'matAutocomplete'],
  textarea: ['matInput'],
  select: [],
  table: ['mat-table', 'cdk-table'],
  dialog: [],
  details: [],
  progress: [],
  button: [
    'matButton',
    'matIconButton',
    'matFab',
    'mat-menu-item',
    'mat-list-item',
    'matChipRemove',
    'mat-tab-link',
    'cdkMenuItem',
  ],
};

/** Places, by the end of their file's name, that may hold a bare control. */
const ALLOWED = [
  { file: 'parts/pick.ts', element: 'input', why: 'files are chosen by the browser; a Material button stands for it' },
];

const names = (node) =>
  [node.attributes, node.inputs, node.outputs, node.references].flatMap((list) => (list ?? []).map((a) => a.name));

export default {
  meta: {
    type: 'problem',
    docs: { description: 'Controls are those of the component library.' },
    schema: [],
    messages: {
      raw: 'A bare <{{name}}> is not of the component library: use {{instead}}.',
    },
  },
  create(context) {
    const file = context.filename.replaceAll('\\', '/');
    return {
      Element(node) {
        const name = node.name;
        const wanted = Object.hasOwn(NEEDS, name) ? NEEDS[name] : null;
        if (wanted === null || names(node).some((n) => wanted.includes(n))) return;
        // Inline templates are linted under the name of their component's file with a number after it.
        if (ALLOWED.some((a) => a.element === name && file.includes(a.file))) return;
        const { start, end } = node.startSourceSpan;
        context.report({
          loc: {
            start: { line: start.line + 1, column: start.col },
            end: { line: end.line + 1, column: end.col },
          },
          messageId: 'raw',
          data: { name, instead: wanted.length > 0 ? wanted.join(', ') : 'a Material component' },
        });
      },
    };
  },
};
