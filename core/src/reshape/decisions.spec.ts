import { Finding } from '../inspect/index.ts';
import { Decision, Rule, decided } from './decisions.ts';

describe('What was decided before', () => {
  const kept = { id: 'd', mend: 'unlink', params: {}, reason: '' };
  const found = (key: string, groupKey: string) =>
    Finding.parse({
      ...{ key, like: groupKey, kind: 'link-broken', weight: 'breaks', item: null, title: 'T', part: '', file: null },
      ...{ line: null, evidence: 'e', spot: null, suggestions: [] },
    });

  it('is read under the name that the key of a group has now, and counts as it did', () => {
    expect(found('a', 'gone.html').groupKey).toBe('gone.html');
    const all = Decision.parse({ ...kept, match: { kind: 'link-broken', like: 'gone.html', key: null } });
    const one = Decision.parse({ ...kept, id: 'o', match: { kind: 'link-broken', like: null, key: 'b' } });
    expect(all.match).toEqual({ kind: 'link-broken', groupKey: 'gone.html', key: null });
    const findings = [found('a', 'gone.html'), found('b', 'gone.html'), found('c', 'other.html')];
    expect([...decided(findings, [one, all])].map(([key, { id }]) => [key, id])).toEqual([
      ['a', 'd'],
      ['b', 'o'],
    ]);
    const rule = { mend: 'unlink', params: {}, reason: '' };
    expect(Rule.parse({ name: 'R', ...rule, match: { kind: 'k', like: 'l', key: null } }).match.groupKey).toBe('l');
    expect(Rule.safeParse({ name: 'R', ...rule, match: { kind: 'k', groupKey: 'l', key: 'one' } }).success).toBeFalse();
  });
});
