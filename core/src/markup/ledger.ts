import { parseXml } from './xml.ts';
import { taken, untakenIn } from './xml-taken.ts';
import type { XmlElement } from './xml-tree.ts';

/** Something of a package that no reader took, summed by its name. */
export interface Unread {
  /** `element`, `element@attribute` or `element/text`. */
  name: string;
  file: string;
  /** Where it stands first. */
  line: number;
  times: number;
}

/** What is rightly passed over: it says nothing of a course, or what it says is what is taken for granted. */
export interface Ignored {
  /** As in `Unread`, in any spelling of QTI; `@attribute` of any element. */
  name: string;
  /** The values that are ignored; any where not given. */
  value?: RegExp;
  why: string;
}

/** QTI 3 writes `qti-item-body`, QTI 2 `itemBody`, LOM either `langString` or `langstring`. */
const plain = (name: string) =>
  name
    .replace(/(^|@)qti-/g, '$1')
    .replaceAll('-', '')
    .toLowerCase();

/**
 * What the readers of one package took of its XML, and what they did not. Every file that is read is parsed here, so that
 * a reader need not say what it passes over: the elements count it.
 */
export class Ledger {
  private readonly ignored = new Map<string, Ignored[]>();
  private readonly open = new Map<string, XmlElement[]>();
  private readonly kept = new Map<string, Unread[]>();

  constructor(ignored: readonly Ignored[]) {
    for (const one of ignored) {
      const list = this.ignored.get(plain(one.name));
      if (list) list.push(one);
      else this.ignored.set(plain(one.name), [one]);
    }
  }

  /** @throws Refusal as `parseXml` */
  parse(text: string, file: string, depthLimit: number): XmlElement {
    return this.add(parseXml(text, file, depthLimit), file);
  }

  /** A file that was parsed before. */
  add(root: XmlElement, file: string): XmlElement {
    // What a file is, is said by its root.
    taken(root);
    const roots = this.open.get(file);
    if (roots) roots.push(root);
    else this.open.set(file, [root]);
    return root;
  }

  /** The file is read, and its tree is wanted no more. */
  close(file: string): void {
    for (const root of this.open.get(file) ?? []) this.kept.set(file, this.unreadIn(root, file));
    this.open.delete(file);
  }

  /** What was not read of a file that belongs to whoever asks: it is told once. */
  takeOf(file: string): Unread[] {
    this.close(file);
    const unread = this.kept.get(file) ?? [];
    this.kept.delete(file);
    return unread;
  }

  /** What was not read of all files that nobody asked for. */
  rest(): Unread[] {
    return [...new Set([...this.open.keys(), ...this.kept.keys()])].flatMap((file) => this.takeOf(file));
  }

  private unreadIn(root: XmlElement, file: string): Unread[] {
    const byName = new Map<string, Unread>();
    for (const { name, value, line } of untakenIn(root)) {
      if (this.isIgnored(name, value)) continue;
      const before = byName.get(name);
      if (before) before.times++;
      else byName.set(name, { name, file, line, times: 1 });
    }
    return [...byName.values()];
  }

  private isIgnored(name: string, value: string): boolean {
    const of = plain(name);
    const attribute = of.indexOf('@');
    const names = attribute < 0 ? [of] : [of, of.slice(attribute)];
    return names.some((n) => this.ignored.get(n)?.some((one) => one.value?.test(value) ?? true));
  }
}
