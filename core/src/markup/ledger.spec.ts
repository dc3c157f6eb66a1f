import {
  Ledger,
  child,
  elements,
  is,
  parseXml,
  saysAgain,
  saysAgainIn,
  takenAs,
  textOf,
  vocabularyOf,
  withChildren,
} from './index.ts';

const NONE = { name: '', why: '' };

/** What is left of a text of which `read` takes something. */
function left(xml: string, read: (root: ReturnType<typeof parseXml>) => unknown, ignored = [NONE]): string[] {
  const ledger = new Ledger(ignored);
  read(ledger.parse(xml, 'a.xml', 256));
  return ledger.takeOf('a.xml').map(({ name, times, line }) => `${name} ${times} in line ${line}`);
}

describe('The ledger', () => {
  const course = `<course id="c">
    <title lang="en">Tides</title>
    <week n="1"><page/></week>
    <week n="2"><page/><quiz/></week>
    loose words
  </course>`;

  it('tells all of what nobody took, an element once for all that is in it', () => {
    expect(left(course, () => undefined)).toEqual([
      'course@id 1 in line 1',
      'course/text 1 in line 1',
      'title 1 in line 2',
      'week 2 in line 3',
    ]);
  });

  it('takes what was asked for by its name, its attribute or its text, and no more', () => {
    expect(
      left(course, (root) => {
        textOf(child(root, 'title'));
        for (const week of elements(root, 'week')) child(week, 'page');
        return root.attrs['id'];
      }),
    ).toEqual(['course/text 1 in line 1', 'title@lang 1 in line 2', 'week@n 2 in line 3', 'quiz 1 in line 4']);
  });

  it('does not take what was only looked at', () => {
    expect(left(course, (root) => elements(root).some((e) => is(e, 'page')))).toContain('week 2 in line 3');
    expect(left('<a><b/></a>', (root) => child(root, 'c'))).toEqual(['b 1 in line 1']);
    expect(left('<a x="1" y="2"/>', (root) => 'x' in root.attrs)).toEqual(['a@x 1 in line 1', 'a@y 1 in line 1']);
    expect(left('<a x="1" y="2"/>', (root) => Object.entries(root.attrs))).toEqual([]);
  });

  it('counts with an element what is taken of one that was made of it', () => {
    expect(
      left('<a x="1"><b>w</b><c/></a>', (root) => {
        const other = withChildren(root, elements(root, 'b'));
        return [other.attrs['x'], textOf(child(other, 'b'))];
      }),
    ).toEqual(['c 1 in line 1']);
  });

  it('takes words that are known already only where they are the same', () => {
    const read = (known: string) => (root: ReturnType<typeof parseXml>) => [
      saysAgain(elements(root)[0], known),
      saysAgainIn(root, 'x', known),
    ];
    expect(left('<a x="Tides "><b>\n Tides</b></a>', read('Tides'))).toEqual([]);
    expect(left('<a x="Tides"><b>Tides</b></a>', read('Ebb'))).toEqual(['a@x 1 in line 1', 'b 1 in line 1']);
  });

  it('takes of what is read as a whole what is of its vocabulary', () => {
    const words = vocabularyOf('b c', 'x');
    expect(left('<a><b x="1"><c y="2">t</c><d/></b></a>', (root) => takenAs(words, elements(root)[0]))).toEqual([
      'c@y 1 in line 1',
      'd 1 in line 1',
    ]);
  });

  it('keeps attributes of one local name apart, and leaves out what only tells how to check a file', () => {
    const xml =
      '<a xmlns:v="urn:v" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" x="1" v:x="2" xsi:schemaLocation="s"/>';
    expect(left(xml, (root) => root.attrs['x'])).toEqual(['a@v:x 1 in line 1']);
  });

  it('tells every attribute of an element that has very many', () => {
    const many = Array.from({ length: 70 }, (_, i) => `a${i}="${i}"`).join(' ');
    const untaken = left(`<e ${many}/>`, (root) => [root.attrs['a3'], root.attrs['a31'], root.attrs['a69']]);
    expect(untaken.length).toBe(67);
    for (const name of ['a3', 'a31', 'a69']) expect(untaken).not.toContain(`e@${name} 1 in line 1`);
  });

  it('passes over what is rightly ignored, by its value where that counts, in any spelling', () => {
    const ignored = [
      { name: 'assessmentItem@timeDependent', value: /^false$/, why: '' },
      { name: '@note', why: '' },
      { name: 'hint', why: '' },
    ];
    const item = (value: string) =>
      `<qti-assessment-item time-dependent="${value}" note="x"><hint/></qti-assessment-item>`;
    expect(left(item('false'), () => undefined, ignored)).toEqual([]);
    expect(left(item('true'), () => undefined, ignored)).toEqual(['qti-assessment-item@time-dependent 1 in line 1']);
  });

  it('tells each file once, and at the end all that nobody asked for', () => {
    const ledger = new Ledger([NONE]);
    for (const file of ['a.xml', 'b.xml', 'c.xml']) ledger.parse('<a x="1"/>', file, 256);
    ledger.close('c.xml');
    expect(ledger.takeOf('a.xml').map((u) => u.file)).toEqual(['a.xml']);
    expect(ledger.rest().map((u) => u.file)).toEqual(['b.xml', 'c.xml']);
    expect(ledger.rest()).toEqual([]);
  });
});
