import fc from 'fast-check';
import { QuietHours, quietFrom } from './quiet.ts';

const NIGHT: QuietHours = { from: '22:00', to: '06:00' };
const told = (now: string, hours = NIGHT, zone = 'UTC') => quietFrom(new Date(now), hours, zone)?.toISOString() ?? null;

describe('Quiet hours', () => {
  it('last over midnight, and begin once more the next day', () => {
    expect(told('2026-12-01T21:59:30Z')).toBe('2026-12-01T22:00:00.000Z');
    expect(told('2026-12-01T22:00:00Z')).toBeNull();
    expect(told('2026-12-02T05:59:59Z')).toBeNull();
    expect(told('2026-12-02T06:00:00Z')).toBe('2026-12-02T22:00:00.000Z');
    expect(told('2026-12-02T10:00:00Z', { from: '12:00', to: '13:30' })).toBe('2026-12-02T12:00:00.000Z');
    expect(told('2026-12-02T13:29:00Z', { from: '12:00', to: '13:30' })).toBeNull();
    expect(told('2026-12-02T13:30:00Z', { from: '12:00', to: '13:30' })).toBe('2026-12-03T12:00:00.000Z');
  });

  it('go by the clock of the house', () => {
    expect(told('2026-07-01T19:30:00Z', NIGHT, 'Europe/Berlin')).toBe('2026-07-01T20:00:00.000Z');
    expect(told('2026-07-01T20:30:00Z', NIGHT, 'Europe/Berlin')).toBeNull();
    expect(told('2026-12-01T20:30:00Z', NIGHT, 'Europe/Berlin')).toBe('2026-12-01T21:00:00.000Z');
  });

  it('are waited for a day at most, and last when they have begun', () => {
    const clock = fc
      .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }))
      .map(([h, m]) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}`);
    fc.assert(
      fc.property(
        clock,
        clock,
        fc.date({ min: new Date(0), max: new Date(4e12), noInvalidDate: true }),
        (from, to, now) => {
          fc.pre(from !== to);
          const at = quietFrom(now, { from, to }, 'UTC');
          if (at === null) return;
          expect(at.getTime() - now.getTime()).toBeGreaterThan(-60_000);
          expect(at.getTime() - now.getTime()).toBeLessThanOrEqual(86_400_000);
          expect(quietFrom(at, { from, to }, 'UTC')).toBeNull();
        },
      ),
    );
    expect(QuietHours.safeParse({ from: '22:00', to: '22:00' }).success).toBeFalse();
    expect(QuietHours.safeParse({ from: '24:00', to: '06:00' }).success).toBeFalse();
  });
});
