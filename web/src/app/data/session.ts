import { Injectable, inject, signal } from '@angular/core';
import type { Person, SignIn } from '@treenail/server/contract';
import { catchError, of, tap, type Observable } from 'rxjs';
import { Api } from './api';

@Injectable({ providedIn: 'root' })
export class SessionService {
  private readonly api = inject(Api);
  private readonly current = signal<Person | null>(null);
  readonly person = this.current.asReadonly();

  /** Who is signed in, asking the server once where it is not known. */
  known(): Observable<Person | null> {
    const person = this.current();
    if (person) return of(person);
    return this.api.session().pipe(
      tap((found) => this.current.set(found)),
      catchError(() => of(null)),
    );
  }

  signIn(credentials: SignIn): Observable<Person> {
    return this.api.signIn(credentials).pipe(tap((person) => this.current.set(person)));
  }

  signOut(): Observable<unknown> {
    return this.api.signOut().pipe(tap(() => this.forget()));
  }

  forget(): void {
    this.current.set(null);
  }
}
