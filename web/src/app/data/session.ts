import { HttpClient } from '@angular/common/http';
import { Injectable, inject, signal } from '@angular/core';
import { Person, type SignIn } from '@treenail/server/contract';
import { catchError, map, of, tap, type Observable } from 'rxjs';

@Injectable({ providedIn: 'root' })
export class SessionService {
  private readonly http = inject(HttpClient);
  private readonly current = signal<Person | null>(null);
  readonly person = this.current.asReadonly();

  /** Who is signed in, asking the server once where it is not known. */
  known(): Observable<Person | null> {
    const person = this.current();
    if (person) return of(person);
    return this.http.get<unknown>('/api/session').pipe(
      map((answer) => Person.nullable().parse(answer)),
      tap((found) => this.current.set(found)),
      catchError(() => of(null)),
    );
  }

  signIn(asked: SignIn): Observable<Person> {
    return this.http.post<unknown>('/api/session', asked).pipe(
      map((answer) => Person.parse(answer)),
      tap((person) => this.current.set(person)),
    );
  }

  signOut(): Observable<unknown> {
    return this.http.delete('/api/session').pipe(tap(() => this.forget()));
  }

  forget(): void {
    this.current.set(null);
  }
}
