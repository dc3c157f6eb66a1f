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

  it('has the zone that was set last', () => {
    const made = house(() => of('Europe/London'));
    expect(made.zone()).toBe('Europe/London');
    made.setZone('Asia/Tokyo').subscribe();
    expect(made.zone()).toBe('Asia/Tokyo');
  });

  it('has none that could not be had', () => {
    expect(house(() => throwError(() => new Error('no'))).zone()).toBe('');
  });
});
