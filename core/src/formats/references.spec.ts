import { resolveReference } from './references.ts';

describe('References in texts', () => {
  const has = (path: string) => ['media/a b.png', 'quiz/local.png'].includes(path);

  it('are resolved from their own file, and by the token of a cartridge from its root, however that is written', () => {
    const of = (reference: string) => resolveReference(has, 'quiz/q.xml', reference);
    expect(of('local.png')).toBe('quiz/local.png');
    for (const token of ['$IMS-CC-FILEBASE$', '$IMS_CC_FILEBASE$', '%24IMS-CC-FILEBASE%24'])
      expect([of(`${token}/media/a%20b.png`), of(`${token}../media/a%20b.png`)]).toEqual([
        'media/a b.png',
        'media/a b.png',
      ]);
    expect([of('media/none.png'), of('https://sea.example/media/a%20b.png'), of('#top')]).toEqual([null, null, null]);
  });
});
