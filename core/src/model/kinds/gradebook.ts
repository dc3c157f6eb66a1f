import type { Beside, Block, Common, TableCell, TableRow } from './define.ts';

/** The whole gradebook, its categories with their columns, and what the weights come to. */
export function gradebookBlocks(at: Common, { items }: Beside): Block[] {
  const of = (kind: string) => items.filter((i) => i.kind === kind);
  const [categories, columns] = [of('category'), of('column')];
  const titles = new Map(items.map((i) => [i.id, i.title]));
  const ofCategory = (id: string) => columns.filter((c) => c.settings.category === id);
  const loose = columns.filter((c) => !categories.some((k) => k.id === c.settings.category));
  const sum = categories.reduce((total, c) => total + (c.settings.bonus === true ? 0 : (c.settings.weight ?? 0)), 0);
  const line = (column: Common): TableRow => columnRow(column, titles, column.id === at.id);
  return [
    {
      is: 'table',
      rows: [
        [head('Category and column', 2), head('Weight, %'), head('Points'), head('Rules')],
        ...categories.flatMap((c) => [categoryRow(c, ofCategory(c.id), c.id === at.id), ...ofCategory(c.id).map(line)]),
        ...loose.map(line),
        [
          { text: 'Sum of weights', head: 'row', span: 2 },
          { text: String(sum), head: 'row' },
          { text: '', head: 'row' },
          { text: sum === 100 || sum === 0 ? '' : 'does not come to 100' },
        ],
      ],
    },
  ];
}

function head(text: string, span = 1): TableCell {
  return { text, head: 'column', span };
}

const number = (value: number | undefined): string => (value === undefined ? '' : String(value));

function categoryRow({ title, settings }: Common, columns: readonly Common[], marked: boolean): TableRow {
  const points = columns.reduce((sum, c) => sum + (c.settings.points ?? 0), 0);
  const rules = [
    settings.dropLowest !== undefined && `${settings.dropLowest} lowest dropped`,
    settings.equalPoints === true && 'all worth the same',
    settings.bonus === true && 'bonus',
  ].filter((rule) => rule !== false);
  return [
    { text: title, head: 'row', span: 2, marked },
    { text: number(settings.weight), head: 'row' },
    { text: String(points), head: 'row' },
    { text: rules.join(', ') },
  ];
}

function columnRow({ title, settings }: Common, titles: ReadonlyMap<string, string>, marked: boolean): TableRow {
  const graded = settings.gradesItem;
  const of = graded === undefined ? 'graded by hand' : `grades “${titles.get(graded) ?? graded}”`;
  return [
    { text: '' },
    { text: title, marked },
    { text: '' },
    { text: number(settings.points) },
    { text: settings.bonus === true ? `${of}, bonus` : of },
  ];
}
