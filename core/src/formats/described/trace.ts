import { leavesOf, type Doc } from './documents.ts';
import type { Rec } from './records.ts';

/** What one rule found: for whoever writes the description. */
export interface RuleTrace {
  /** Where the rule stands in the description: `outline.0.inside.1`. */
  rule: string;
  records: number;
  /** Document and text of the first record. */
  first: { file: string };
  fields: { name: string; found: number; sample: string }[];
  /** What the records hold that nothing in the rule reads. */
  unread: { place: string; found: number; sample: string }[];
}

interface Row {
  records: Rec[];
  count: number;
  fields: Map<string, { found: number; sample: string }>;
  used: Set<string>;
}

/** So many records of a rule are looked through for what is not read of them. */
const LOOKED_THROUGH = 500;

/** Writes down what a description finds while it is read by. */
export class Trace {
  private readonly rows = new Map<string, Row>();

  record(rec: Rec): void {
    const row = this.rowOf(rec.rule);
    row.count++;
    if (row.records.length < LOOKED_THROUGH) row.records.push(rec);
  }

  /** A place of a record was read by a path of a value or a condition. */
  used(rec: Rec, place: string | null): void {
    if (place !== null) this.rowOf(rec.rule).used.add(place);
  }

  /** A place of a document led to records; what else stands in it belongs to no rule. */
  inFile(doc: Doc, place: string | null): void {
    if (place === null || place === '$') return;
    const rec = { doc, node: doc.root, above: null, rule: `in ${doc.path}` };
    if (!this.rows.has(rec.rule)) this.record(rec);
    this.used(rec, place);
  }

  field(rec: Rec, name: string, sample: string): void {
    const { fields } = this.rowOf(rec.rule);
    const field = fields.get(name);
    if (field) field.found++;
    else fields.set(name, { found: 1, sample: short(sample) });
  }

  rules(): RuleTrace[] {
    return [...this.rows].map(([rule, row]) => ({
      rule,
      records: row.count,
      first: { file: row.records[0]?.doc.path ?? '' },
      fields: [...row.fields].map(([name, { found, sample }]) => ({ name, found, sample })),
      unread: unreadOf(row),
    }));
  }

  private rowOf(rule: string): Row {
    const row = this.rows.get(rule) ?? { records: [], count: 0, fields: new Map(), used: new Set() };
    this.rows.set(rule, row);
    return row;
  }
}

function unreadOf({ records, used }: Row): RuleTrace['unread'] {
  const unread = new Map<string, { found: number; sample: string }>();
  const isRead = (place: string): boolean => {
    if (used.has(place)) return true;
    for (let at = place.length - 1; at > 0; at--) {
      if (/[./[]/.test(place.charAt(at)) && used.has(place.slice(0, at))) return true;
    }
    return used.has('$') || used.has('.');
  };
  for (const { doc, node } of records) {
    for (const { place, value } of leavesOf(doc, node)) {
      if (isRead(place)) continue;
      const known = unread.get(place);
      if (known) known.found++;
      else unread.set(place, { found: 1, sample: short(value) });
    }
  }
  return [...unread].map(([place, { found, sample }]) => ({ place, found, sample }));
}

function short(text: string): string {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > 120 ? `${line.slice(0, 119)}…` : line;
}
