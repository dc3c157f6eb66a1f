import fc from 'fast-check';
import type { Files } from './packages.ts';

/** The documents of a Tarnhall crate, as its stand-in packs them. */
export function entryOf(id: string, sort: string, more: object = {}): object {
  return {
    id,
    sort,
    title: `Title ${id}`,
    origin: null,
    body: '',
    url: '',
    file: null,
    files: [],
    marks: null,
    ways: [],
    tries: null,
    minutes: null,
    asks: [],
    ...more,
  };
}

export function askOf(more: object = {}): object {
  return {
    key: 'q',
    label: 'One',
    form: 'one',
    ask: '<p>Which? <img src="held:f1"></p>',
    marks: 2,
    options: [{ key: 'a', text: 'this', right: true, reply: 'Yes.' }],
    words: [],
    replies: { any: null, right: 'Good.', wrong: null },
    ...more,
  };
}

/** A crate with an entry of most sorts. */
export const CRATE: Files = {
  ...Object.fromEntries(
    Object.entries({
      'crate.json': {
        crate: 1,
        code: 'TST 1',
        title: 'Tests',
        units: ['units/u.json'],
        pools: ['pools/p.json'],
        files: [{ id: 'f1', path: 'plate one.png', blob: 'blobs/f1' }],
      },
      'units/u.json': {
        id: 'u',
        title: 'Unit',
        origin: 'folder-1',
        entries: ['entries/h.json', 'entries/t.json', 'entries/f.json', 'entries/k.json'],
      },
      'entries/h.json': entryOf('h', 'heading'),
      'entries/t.json': entryOf('t', 'text', { origin: 'page-1', body: '<p>Words <img src="held:f1"></p>' }),
      'entries/f.json': entryOf('f', 'file', { file: 'f1' }),
      'entries/k.json': entryOf('k', 'test', { tries: 2, minutes: 9, asks: ['entries/k/asks/1.json'] }),
      'entries/k/asks/1.json': askOf(),
      'pools/p.json': { id: 'p', title: 'Pool', origin: null, asks: ['entries/k/asks/1.json'] },
    }).map(([path, value]) => [path, JSON.stringify(value)]),
  ),
  'blobs/f1': 'picture',
};

/** A parcel of Oxlea. */
export const PARCEL: Files = {
  'book.yaml':
    'oxlea: 2\ncode: TID 200\nname: Tides\nabout: A year\nhalves:\n  - key: h1\n    name: First\n  - key: h2\n    name: Second\n',
  '1/01/lesson.yaml': 'key: l1\nname: Causes\nfrom: 2025-09-14\n',
  '1/01/01.md': '---\nkey: a\nname: To read\nsort: reading\n---\n# To read\n\nThe *moon* pulls.\n',
  '1/01/02.md': '---\nkey: b\nname: To do\nsort: piece\nworth: 30\nby: "2026-05-29"\n---\nDraw it.\n',
  '1/01/03.yaml': 'key: c\nname: Sheet\nsort: handout\nfile: sheet.pdf\n',
  '2/01/lesson.yaml': 'key: l2\nname: Streams\n',
  '2/01/01.yaml':
    'key: d\nname: Check\nsort: test\nminutes: 10\ngoes: 2\nquestions:\n  - key: q\n    name: One\n    asks: Which?\n    worth: 2\n    sort: pick\n    options: [moon, sun]\n    right: [1]\n    says: null\n',
  'library/sheet.pdf': '%PDF',
  'readers.yaml': '- name: Perran\n  mail: p@x.example\n',
};

const text = fc.oneof(
  fc.string({ maxLength: 30, unit: 'grapheme' }),
  fc.constantFrom('<p>A <b>word</b> &amp; <a href="held:f1">a plate</a></p>', 'held:f9 is nowhere', ''),
);
const maybe = <T>(some: fc.Arbitrary<T>) => fc.option(some, { nil: null });
const ask = fc.record({
  key: fc.constantFrom('q1', 'q2', 'q3'),
  label: text,
  form: fc.constantFrom('one', 'many', 'yesno', 'word', 'prose'),
  ask: text,
  marks: fc.integer({ min: 0, max: 20 }),
  options: fc.array(fc.record({ key: fc.constantFrom('a', 'b', 'c'), text, right: fc.boolean(), reply: maybe(text) }), {
    maxLength: 3,
  }),
  words: fc.array(fc.record({ text: fc.string({ minLength: 1, maxLength: 9 }), strict: fc.boolean() }), {
    maxLength: 2,
  }),
  replies: fc.record({ any: maybe(text), right: maybe(text), wrong: maybe(text) }),
});
const entry = fc.record({
  sort: fc.constantFrom('text', 'file', 'pointer', 'talk', 'task', 'test', 'launcher', 'heading'),
  title: text,
  origin: maybe(fc.constantFrom('o1', 'o2', 'o3', 'o4')),
  body: text,
  url: fc.constantFrom('', 'https://tide.example/a?b=c'),
  file: maybe(fc.constantFrom('f1', 'f2', 'f9')),
  files: fc.subarray(['f1', 'f2', 'f9']),
  marks: maybe(fc.integer({ min: 0, max: 100 })),
  ways: fc.subarray(['file', 'text']),
  tries: maybe(fc.integer({ min: 1, max: 5 })),
  minutes: maybe(fc.integer({ min: 1, max: 90 })),
  asks: fc.array(ask, { maxLength: 3 }),
});

/** Whole crates of Tarnhall: units of entries of every sort, pools, files, things pointed at twice. */
export const crates: fc.Arbitrary<Files> = fc
  .record({
    code: fc.constantFrom('', 'TST 1'),
    about: fc.record({ text: fc.constant('About it'), words: fc.subarray(['a', 'b']) }, { requiredKeys: ['words'] }),
    title: text,
    units: fc.array(
      fc.record({
        title: text,
        origin: maybe(fc.constantFrom('u1', 'o1')),
        loose: fc.boolean(),
        entries: fc.array(entry, { maxLength: 5 }),
      }),
      { maxLength: 3 },
    ),
    pools: fc.array(
      fc.record({ title: text, origin: maybe(fc.constantFrom('p1')), asks: fc.array(ask, { maxLength: 3 }) }),
      {
        maxLength: 2,
      },
    ),
    twice: fc.boolean(),
  })
  .map(({ code, about, title, units, pools, twice }) => {
    const files: Record<string, unknown> = {};
    const asksAt = (folder: string, asks: readonly object[]) =>
      asks.map((each, i) => {
        files[`${folder}/${i}.json`] = each;
        return `${folder}/${i}.json`;
      });
    const unitPaths = units.map((unit, u) => {
      const paths = unit.entries.map((each, e) => {
        const id = `${u}x${e}`;
        files[`entries/${id}.json`] = {
          ...each,
          id,
          asks: each.sort === 'test' ? asksAt(`entries/${id}`, each.asks) : [],
        };
        return `entries/${id}.json`;
      });
      files[`units/${u}.json`] = { ...unit, id: `u${u}`, entries: twice ? [...paths, ...paths] : paths };
      return `units/${u}.json`;
    });
    const poolPaths = pools.map((pool, p) => {
      files[`pools/${p}.json`] = { ...pool, id: `p${p}`, asks: asksAt(`pools/${p}`, pool.asks) };
      return `pools/${p}.json`;
    });
    files['crate.json'] = {
      crate: 1,
      code,
      about,
      title,
      units: unitPaths,
      pools: poolPaths,
      files: [
        { id: 'f1', path: 'plate one.png', blob: 'blobs/f1' },
        { id: 'f2', path: 'a/Wk 3 – knots.docx', blob: 'blobs/f2' },
      ],
    };
    return {
      ...Object.fromEntries(Object.entries(files).map(([path, value]) => [path, JSON.stringify(value)])),
      'blobs/f1': 'a picture',
      'blobs/f2': 'a document',
    };
  });

/** A folio of a platform that no reader is coded for: XML with chapters in chapters, texts in another document. */
export const FOLIO: Files = {
  'fenwright/contents.lst': 'folio.xml leaves.xml',
  'fenwright/folio.xml': `<?xml version="1.0"?>
<d:folio xmlns:d="urn:dunlin" dunlin="2" code="TID 9" tongue="en" licence="By leave of the harbour">
  <d:heading>Night tides</d:heading><d:foreword>For those who work by day.</d:foreword>
  <d:subjects><d:subject>tides</d:subject><d:subject>night</d:subject></d:subjects>
  <d:chapter no="1"><d:heading>Moon and water</d:heading>
    <d:leaf-ref no="11" leaf="L1"/>
    <d:chapter no="2"><d:heading>Springs</d:heading>
      <d:errand no="21" marks="20" due="1792425600" shut="yes"><d:heading>Draw a curve</d:heading>
        <d:brief>Use **soft** pencil.</d:brief><d:with thing="F1"/></d:errand>
    </d:chapter>
    <d:leaf-ref no="12" leaf="L2"/>
    <d:thing-ref no="13" thing="F1" name="Table of heights"/>
    <d:trial no="14" seconds="1200" goes="2" word="ebb"><d:heading>Tides so far</d:heading>
      <d:ask no="q1" sort="pick" called="Cause" marks="2"><d:put>What pulls <b>most</b>?</d:put>
        <d:option no="a" right="yes" reply="It does.">The moon</d:option><d:option no="b">The wind</d:option>
        <d:remark>See the <i>first</i> leaf.</d:remark></d:ask>
      <d:ask no="q2" sort="sum" marks="1"><d:put>How many hours?</d:put><d:number is="12.4" from="12.3" to="12.5"/></d:ask>
      <d:ask no="q3" sort="join" marks="4"><d:put>Join.</d:put><d:left no="l1">Full moon</d:left><d:left no="l2">Half moon</d:left>
        <d:right no="r1">Springs</d:right><d:right no="r2">Neaps</d:right><d:join left="l1" right="r1"/><d:join left="l2" right="r2"/></d:ask>
      <d:ask no="q4" sort="say" marks="1"><d:put>The word for low water?</d:put><d:accept>ebb</d:accept><d:accept>low tide</d:accept></d:ask>
    </d:trial>
    <d:signpost no="15" to="https://tide.example/tables" name="Tables"/>
    <d:palaver no="16"><d:heading>Seen at night</d:heading><d:words>What did you see?</d:words></d:palaver>
  </d:chapter>
  <d:hold><d:thing no="F1" name="heights 1.csv"/><d:thing no="F2" name="unused.txt"/></d:hold>
  <d:roll-call no="R" name="Evenings"><d:mark code="H" name="Here" worth="100"/><d:mark code="L" name="Late" worth="50"/></d:roll-call>
  <d:notice no="N" at="2026-09-14T08:00:00Z"><d:heading>Welcome</d:heading><d:body>Bring a *lamp*.</d:body></d:notice>
  <d:pupils><d:pupil name="Wren Aldous"><d:mark>7</d:mark></d:pupil><d:pupil name="Ode Brill"/></d:pupils>
  <d:lanterns trimmed="nightly"/>
</d:folio>`,
  'fenwright/leaves.xml': `<leaves><leaf no="L1"><heading>Why it rises</heading><body><p>See <a href="leaf:L2;">the next</a> and <img src="thing:F1;" alt="heights"/>.</p></body></leaf>
<leaf no="L2"><heading>When it falls</heading><body><p>Back to <a href="leaf:L1;">the first</a>.</p></body></leaf>
<errata>none</errata></leaves>`,
  'fenwright/hold/F1.bin': '1,2,3',
  'fenwright/hold/F2.bin': 'nobody asks for this',
  'fenwright/seal.sig': 'ab12',
};
