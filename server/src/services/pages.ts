import { QueryTypes, type Sequelize } from 'sequelize';
import type { PageAsked } from '../contract/index.ts';

/** A list as the database gives it in pages: filtered and sorted there, whatever it holds. */
export interface Listing {
  /** What stands behind FROM. */
  readonly from: string;
  /** By its alias, a costly join of at most one row that is made only where a query names it. */
  readonly joins?: Readonly<Record<string, string>>;
  /** The row's identifier. */
  readonly id: string;
  /** What the words of a filter are looked for in. */
  readonly searched: readonly string[];
  /** By the column's name, what is sorted by. */
  readonly sorts: Readonly<Record<string, readonly string[]>>;
  /** Columns that may be NULL: such rows come last either way. */
  readonly mayLack: readonly string[];
  /** Where nobody asked for another order. */
  readonly order: string;
}

/** A condition with the values that it names. */
export interface Narrowing {
  readonly sql: string;
  readonly values?: Readonly<Record<string, unknown>>;
}

/** Code and section as people order them: the numbers in them by their size. */
export const natural = (...columns: readonly string[]): string[] => columns.map((c) => `NATURAL_SORT_KEY(${c})`);

/** Identifiers of a page's rows, in their order. */
export async function idsOf(
  database: Sequelize,
  listing: Listing,
  asked: PageAsked,
  narrowings: readonly Narrowing[],
): Promise<number[]> {
  const { where, replacements } = conditions(listing, asked.words, narrowings);
  const sort = asked.sort || listing.order;
  const down = sort.startsWith('-') ? ' DESC' : '';
  const column = sort.replace(/^-/, '');
  const lacks = listing.mayLack.includes(column);
  const by = (listing.sorts[column] ?? []).flatMap((e) => [...(lacks ? [`(${e}) IS NULL`] : []), `(${e})${down}`]);
  // What is alike is told in one order too: else a row could stand on two pages, and another on none.
  const order = [...by, `${listing.id}${down}`].join(', ');
  const rows = await database.query<{ id: number }>(
    `SELECT ${listing.id} AS id FROM ${fromOf(listing, `${where} ${order}`)}
     WHERE ${where} ORDER BY ${order} LIMIT :limit OFFSET :offset`,
    { type: QueryTypes.SELECT, replacements: { ...replacements, limit: asked.limit, offset: asked.offset } },
  );
  return rows.map((row) => row.id);
}

/** How many rows fit, and what `sums` (SQL by name) comes to over all of them. */
export async function sumsOf<S extends Readonly<Record<string, string>>>(
  database: Sequelize,
  listing: Listing,
  words: string,
  narrowings: readonly Narrowing[],
  sums: S,
): Promise<Record<keyof S | 'total', number>> {
  const { where, replacements } = conditions(listing, words, narrowings);
  const told = Object.entries({ total: 'COUNT(*)', ...sums });
  const [counted] = await database.query<Record<string, unknown>>(
    `SELECT ${told.map(([name, sql]) => `${sql} AS \`${name}\``).join(', ')}
     FROM ${fromOf(listing, `${where} ${Object.values(sums).join(' ')}`)} WHERE ${where}`,
    { type: QueryTypes.SELECT, replacements },
  );
  // A sum of no rows is NULL, a great one comes as a text.
  return Object.fromEntries(told.map(([name]) => [name, Number(counted?.[name] ?? 0)])) as Record<
    keyof S | 'total',
    number
  >;
}

/** With the joins that these texts of a query need. */
function fromOf({ from, joins = {} }: Listing, texts: string): string {
  const needed = Object.entries(joins).filter(([alias]) => new RegExp(`\\b${alias}\\.`).test(texts));
  return [from, ...needed.map(([, sql]) => sql)].join(' ');
}

function conditions({ searched }: Listing, words: string, narrowings: readonly Narrowing[]) {
  // Whatever its parts are: capitals make no difference.
  const text = `CONCAT_WS(' ', ${searched.join(', ')}) COLLATE utf8mb4_unicode_ci`;
  const wanted = words.split(/\s+/).filter(Boolean);
  const like = wanted.map((word, i): Narrowing => {
    return { sql: `${text} LIKE :word${i}`, values: { [`word${i}`]: `%${word.replace(/[\\%_]/g, '\\$&')}%` } };
  });
  const all = [...narrowings, ...like];
  return {
    where: all.length === 0 ? 'TRUE' : all.map(({ sql }) => `(${sql})`).join(' AND '),
    replacements: Object.assign({}, ...all.map(({ values }) => values)) as Record<string, unknown>,
  };
}

/** Rows in the order of their identifiers; what is gone meanwhile is left out. */
export function inOrder<R extends { id: number }>(ids: readonly number[], rows: readonly R[]): R[] {
  const byId = new Map(rows.map((row) => [row.id, row]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

/** The connection that a model is bound to. */
export function databaseOf(model: { readonly sequelize?: Sequelize }): Sequelize {
  if (!model.sequelize) throw new Error('the models are not bound to a database');
  return model.sequelize;
}
