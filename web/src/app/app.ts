import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import {
  NavigationCancel,
  NavigationEnd,
  NavigationError,
  NavigationSkipped,
  NavigationStart,
  Router,
  RouterLink,
  RouterLinkActive,
  RouterOutlet,
  type Event as RouterEvent,
} from '@angular/router';
import { filter, map, of, switchMap, timer } from 'rxjs';
import { wordsOf } from './data/api';
import { House } from './data/house';
import { SessionService } from './data/session';
import { keysOn, sectionsFor } from './screens';
import { Finder } from './shell/finder';
import { KeysDialog } from './shell/keys-dialog';
import { MailDialog } from './shell/mail-dialog';
import { Tideline } from './shell/tideline';

/** How long nothing is said of waiting. */
const SILENT_MS = 300;

@Component({
  selector: 'tn-root',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Finder,
    MatButton,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    RouterLink,
    RouterLinkActive,
    RouterOutlet,
    Tideline,
  ],
  template: `
    @if (person(); as person) {
      <header class="top no-print">
        <a class="brand" routerLink="/"><img src="mark.svg" alt="" width="24" height="24" /> Treenail</a>
        <nav aria-label="Sections">
          @for (section of sections(); track section.path) {
            <a [routerLink]="section.path" routerLinkActive="on" ariaCurrentWhenActive="page">{{ section.name }}</a>
          }
        </nav>
        @if (person.role === 'administrator') {
          <tn-finder />
        }
        <button matButton type="button" class="me" [matMenuTriggerFor]="menu" [attr.aria-label]="person.name">
          {{ initials() }}
        </button>
        <mat-menu #menu="matMenu">
          <button mat-menu-item disabled>{{ person.name }}, {{ person.role }}</button>
          <button mat-menu-item (click)="mail()">What you are told by mail</button>
          <button mat-menu-item (click)="keys()">Keys</button>
          <button mat-menu-item (click)="signOut()">Sign out</button>
        </mat-menu>
      </header>
    }
    @if (missed(); as url) {
      <p class="missed" role="alert">
        <span class="error">This page did not come: Treenail does not answer, or was renewed meanwhile.</span>
        <a matButton="outlined" [href]="url">Load it anew</a>
      </p>
    } @else if (stays()) {
      <p class="missed" role="alert">
        <span class="error">You are still signed in. {{ stays() }}</span>
      </p>
    }
    @if (opening()) {
      <p class="missed opening quiet" role="status">Opening the page…</p>
    }
    <main [class.bare]="!person()"><router-outlet /></main>
    @if (person()?.role === 'administrator') {
      <tn-tideline class="no-print" />
    }
  `,
  styleUrl: './app.scss',
  // Heard last, so that what a screen makes of a key comes first.
  host: { '(window:keydown)': 'key($event)' },
})
export class App {
  private readonly session = inject(SessionService);
  private readonly router = inject(Router);
  private readonly dialog = inject(MatDialog);
  private readonly finder = viewChild(Finder);
  private going = false;
  protected readonly person = this.session.person;
  private readonly house = inject(House);
  protected readonly sections = computed(() => sectionsFor(this.person()?.role));
  protected readonly initials = computed(() =>
    (this.person()?.name ?? '')
      .split(' ')
      .map((word) => word[0] ?? '')
      .join(''),
  );
  /** Why signing out did not work. */
  protected readonly stays = signal('');
  /** Where the person wanted to go when the page's own script could not be had. */
  protected readonly missed = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd || event instanceof NavigationError),
      map((event) => (event instanceof NavigationError ? event.url : null)),
    ),
    { initialValue: null },
  );

  /** A page whose script is long in coming is said to be on its way, instead of nothing. */
  protected readonly opening = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationStart || event instanceof NavigationEnd || isGivenUp(event)),
      switchMap((event) => (event instanceof NavigationStart ? timer(SILENT_MS).pipe(map(() => true)) : of(false))),
    ),
    { initialValue: false },
  );

  constructor() {
    // Nothing is told to who is not signed in.
    effect(() => {
      if (this.person()) untracked(() => this.house.load());
    });
  }

  protected mail(): void {
    this.dialog.open(MailDialog, { width: '420px' });
  }

  protected keys(): void {
    const shown = this.router.routerState.snapshot.root.firstChild?.routeConfig?.path;
    this.dialog.open(KeysDialog, { width: '420px', data: keysOn(shown, this.person()?.role) });
  }

  protected signOut(): void {
    this.stays.set('');
    this.session.signOut().subscribe({
      next: () => void this.router.navigateByUrl('/sign-in'),
      error: (error: unknown) => this.stays.set(wordsOf(error)),
    });
  }

  protected key(event: KeyboardEvent): void {
    if (
      event.defaultPrevented ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      isTyping(event.target) ||
      !this.person()
    )
      return;
    if (this.going) {
      this.going = false;
      if (event.key === '/') {
        event.preventDefault();
        this.finder()?.focus();
        return;
      }
      const section = this.sections().find((s) => s.key === event.key);
      if (section) void this.router.navigateByUrl(section.path);
      return;
    }
    if (event.key === 'g') this.going = true;
    else if (event.key === '?') this.keys();
    else if (event.key === '/') {
      event.preventDefault();
      this.finder()?.focus();
    }
  }
}

function isGivenUp(event: RouterEvent): boolean {
  return event instanceof NavigationCancel || event instanceof NavigationError || event instanceof NavigationSkipped;
}

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}
