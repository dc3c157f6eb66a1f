import { decodeText } from './index.ts';

const bytes = (...parts: (string | number[])[]) =>
  Uint8Array.from(parts.flatMap((p) => (typeof p === 'string' ? [...p].map((c) => c.charCodeAt(0)) : p)));

describe('Text from bytes', () => {
  it('reads what is not UTF-8 as browsers do', () => {
    expect(decodeText(bytes([0x93], 'Ebb', [0x94, 0x20, 0x96, 0x20, 0x80], '5'))).toBe('“Ebb” – €5');
    expect(decodeText(bytes('caf', [0xe9]))).toBe('café');
  });

  it('heeds what a page or an XML declaration says of itself', () => {
    const page = (charset: string) => `<html><head><meta charset="${charset}"></head><p>`;
    expect(decodeText(bytes(page('windows-1251'), [0xcf, 0xf0, 0xe8]))).toBe(`${page('windows-1251')}При`);
    // Pages that say Latin-1 mean Windows-1252.
    expect(decodeText(bytes(page('iso-8859-1'), [0x93]))).toBe(`${page('iso-8859-1')}“`);
    const old = '<meta http-equiv="Content-Type" content="text/html; charset=ISO-8859-2">';
    expect(decodeText(bytes(old, [0xb1]))).toBe(`${old}ą`);
    const xml = '<?xml version="1.0" encoding="windows-1252"?><a>';
    expect(decodeText(bytes(xml, [0x96], '</a>'))).toBe(`${xml}–</a>`);
  });

  it('takes for UTF-8 what is UTF-8, whatever it says, and minds no name that is none', () => {
    const page = '<meta charset="iso-8859-1"><p>';
    expect(decodeText(new TextEncoder().encode(`${page}Łódź`))).toBe(`${page}Łódź`);
    expect(decodeText(bytes('<meta charset="no-such">', [0xe9]))).toBe('<meta charset="no-such">é');
  });
});
