/** An element with its place in the source text, so that a text can be changed by splicing and is otherwise kept. */
export interface XmlElement {
  /** Local name. */
  name: string;
  ns: string;
  /** By local name; of attributes that share one, the others by their whole names. */
  attrs: Readonly<Record<string, string>>;
  children: readonly (XmlElement | string)[];
  line: number;
  /** Offsets into the text: of `<`, after the open tag, before the close tag, after the close tag. */
  start: number;
  openEnd: number;
  closeStart: number;
  end: number;
}

export const NO_ATTRIBUTES: Readonly<Record<string, string>> = {};
const NO_CHILDREN: (XmlElement | string)[] = [];

/** Attributes whose place is a bit of a small number. */
const BITS = 30;

/** Bits of what a reader took of an element. */
export const [TAKEN, TEXT] = [1, 2];

/**
 * An element that counts what is taken of it, so that nothing of a file can be passed over in silence: it is taken when
 * it is asked for by its name, or one of its attributes, its text or its children are; an attribute when its value is.
 * Half of all have no attribute or no child, and half of the rest one.
 */
export class CountedElement implements XmlElement {
  name: string;
  ns: string;
  line: number;
  start: number;
  openEnd: number;
  closeStart: number;
  end: number;
  /** What it holds, without that being counted. */
  inner: (XmlElement | string)[] = NO_CHILDREN;
  /** The element whose counts these are: itself, or the one that this was made of. */
  private counted: CountedElement = this;
  taken = 0;
  /** Which attributes were taken, by their place: the first thirty as bits, what there is beyond by itself. */
  private takenAttrs = 0;
  private takenBeyond: Set<number> | null = null;
  readonly given: Readonly<Record<string, string>>;

  constructor(name: string, ns: string, given: Readonly<Record<string, string>>, line: number, at: [number, number]) {
    this.name = name;
    this.ns = ns;
    this.given = given;
    this.line = line;
    [this.start, this.openEnd] = at;
    this.closeStart = this.openEnd;
    this.end = this.openEnd;
  }

  get attrs(): Readonly<Record<string, string>> {
    this.take(TAKEN);
    return this.given === NO_ATTRIBUTES ? NO_ATTRIBUTES : (new Proxy(this, COUNTED) as unknown as typeof NO_ATTRIBUTES);
  }

  get children(): readonly (XmlElement | string)[] {
    this.take(TAKEN | TEXT);
    return this.inner;
  }

  take(bits: number): void {
    this.counted.taken |= bits;
  }

  takeAttr(name: string): void {
    const at = Object.keys(this.given).indexOf(name);
    if (at < BITS) this.counted.takenAttrs |= 1 << at;
    else (this.counted.takenBeyond ??= new Set()).add(at);
  }

  /** Whether the attribute at that place was taken. */
  hasTaken(at: number): boolean {
    return at < BITS ? (this.takenAttrs & (1 << at)) !== 0 : (this.takenBeyond?.has(at) ?? false);
  }

  /** The same element with other children; what is taken of it is counted here. */
  with(children: readonly (XmlElement | string)[]): XmlElement {
    const other = new CountedElement(this.name, this.ns, this.given, this.line, [this.start, this.openEnd]);
    [other.closeStart, other.end, other.inner, other.counted] = [
      this.closeStart,
      this.end,
      [...children],
      this.counted,
    ];
    return other;
  }

  /** An array begun with its first member takes a tenth of the room of one that is pushed to. */
  add(node: XmlElement | string): void {
    if (this.inner === NO_CHILDREN) this.inner = [node];
    else this.inner.push(node);
  }
}

/** The attributes of an element, seen through which it counts those that are asked for. */
const COUNTED: ProxyHandler<CountedElement> = {
  get(element, name) {
    if (typeof name !== 'string' || !Object.hasOwn(element.given, name)) return undefined;
    element.takeAttr(name);
    return element.given[name];
  },
  has: (element, name) => Object.hasOwn(element.given, name),
  ownKeys: (element) => Object.keys(element.given),
  getOwnPropertyDescriptor: (element, name) => {
    if (typeof name !== 'string' || !Object.hasOwn(element.given, name)) return undefined;
    element.takeAttr(name);
    return { value: element.given[name], enumerable: true, configurable: true };
  },
};

/** What an element holds, without that being counted as read. */
export function innerOf(element: XmlElement): readonly (XmlElement | string)[] {
  return element instanceof CountedElement ? element.inner : element.children;
}

/** Marks an element that was asked for by its name, or is read as a whole. */
export function take<E extends XmlElement | undefined>(element: E, bits = TAKEN): E {
  if (element instanceof CountedElement) element.take(bits);
  return element;
}

export function elements(parent: XmlElement | undefined, name?: string): XmlElement[] {
  if (!parent) return [];
  const found: XmlElement[] = [];
  for (const node of innerOf(parent)) {
    if (typeof node === 'string') continue;
    if (name === undefined) found.push(node);
    else if (node.name === name) found.push(take(node));
  }
  return found;
}

/** The first child element of that name, or at the end of a path of names. */
export function child(parent: XmlElement | undefined, ...path: string[]): XmlElement | undefined {
  let at = parent;
  for (const name of path) at = at && firstNamed(at, name);
  return at;
}

function firstNamed(parent: XmlElement, name: string): XmlElement | undefined {
  for (const node of innerOf(parent)) if (typeof node !== 'string' && node.name === name) return take(node);
  return undefined;
}

/** All text below an element. Elements that stand in it are words too, but are not taken by that. */
export function textOf(element: XmlElement | undefined): string {
  return element ? wordsIn(take(element, TAKEN | TEXT)) : '';
}

export function wordsIn(element: XmlElement): string {
  return innerOf(element)
    .map((node) => (typeof node === 'string' ? node : wordsIn(node)))
    .join('');
}

/** Every element below, in document order; to look at one is not to take it. Without recursion: a hostile file may nest deep. */
export function descendants(element: XmlElement): XmlElement[] {
  const found: XmlElement[] = [];
  const stack: XmlElement[] = [];
  const push = (parent: XmlElement) => {
    const inner = innerOf(parent);
    for (let i = inner.length - 1; i >= 0; i--) {
      const node = inner[i];
      if (node !== undefined && typeof node !== 'string') stack.push(node);
    }
  };
  push(element);
  for (let next = stack.pop(); next; next = stack.pop()) {
    found.push(next);
    push(next);
  }
  return found;
}
