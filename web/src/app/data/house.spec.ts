import { TestBed } from '@angular/core/testing';
import { of, throwError } from 'rxjs';
import { Api } from './api';
import { House } from './house';

describe('The house', () => {
  const house = (zone: () => ReturnType<Api['zone']>) => {
    const api: Partial<Api> = { zone, setZone: ({ zone: z }) => of(z) };
    TestBed.configureTestingModule({ providers: [{ provide: Api, useValue: api }] });
    const made = TestBed.inject(House);
    made.load();
    return made;
  };

  it('ends its days by its own clock, in summer and in winter', () => {
    const at = house(() => of('Europe/London'));
    expect(at.endOf('2027-01-29')).toBe('2027-01-29T23:59:00.000Z');
    expect(at.endOf('2027-06-30')).toBe('2027-06-30T22:59:00.000Z');
    expect([at.clockOn('2027-01-29'), at.clockOn('2027-06-30')]).toEqual(['GMT', 'BST']);
    at.setZone('Asia/Tokyo').subscribe();
    expect(at.endOf('2027-01-29')).toBe('2027-01-29T14:59:00.000Z');
  });

  it('names no clock that is not known', () => {
    const at = house(() => throwError(() => new Error('no')));
    expect(at.clockOn('2027-01-29')).toBe('');
    expect(at.endOf('2027-01-29')).toMatch(/^2027-01-(29|30)T/);
  });
});
