import { clockOn, endOf, startOf } from './days';

describe('Days of the house', () => {
  it('begin and end by its own clock, in summer and in winter', () => {
    const zone = 'Europe/London';
    expect([endOf('2027-01-29', zone), endOf('2027-06-30', zone)]).toEqual([
      '2027-01-29T23:59:00.000Z',
      '2027-06-30T22:59:00.000Z',
    ]);
    expect(endOf('2027-01-29', 'Asia/Tokyo')).toBe('2027-01-29T14:59:00.000Z');
    expect(startOf('2027-06-30', zone)).toBe(Date.UTC(2027, 5, 29, 23));
    expect([clockOn('2027-01-29', zone), clockOn('2027-06-30', zone)]).toEqual(['GMT', 'BST']);
  });

  it('are no times where nobody knows by which clock', () => {
    expect([endOf('2027-01-29', ''), startOf('2027-01-29', ''), clockOn('2027-01-29', '')]).toEqual([null, null, '']);
    expect(endOf('soon', 'Europe/London')).toBeNull();
  });
});
