import { HttpErrorResponse } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { TestBed } from '@angular/core/testing';
import { Subject, of, throwError, type Observable } from 'rxjs';
import { Reach } from '../data/reach';
import { Screen } from '../testing/screen';
import { Awaited, lastOf } from './awaited';

/** A screen that asks for one thing, by a number. */
@Component({
  selector: 'tn-asks',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited],
  template: `
    <tn-awaited [of]="[loaded]" />
    <tn-awaited class="silent" onlyFailures [of]="[loaded]" />
    <output>{{ last() ?? 'nothing' }}</output>
  `,
})
class Asks {
  readonly id = signal(1);
  asked: number[] = [];
  answer: Observable<string> = of('first');
  readonly loaded = rxResource({
    params: () => this.id(),
    stream: ({ params }) => {
      this.asked.push(params);
      return this.answer;
    },
  });
  readonly last = lastOf(this.loaded);
}

const GONE = new HttpErrorResponse({ status: 0 });

describe('What a screen asks for', () => {
  let screen: Screen<Asks>;
  const asks = () => screen.fixture.componentInstance;
  const shows = () => [screen.words('output'), screen.words('[role=alert] .error'), screen.words('[role=status]')];

  beforeEach(() => {
    screen = new Screen(TestBed.createComponent(Asks));
  });

  it('takes no room while there is nothing to say of it', async () => {
    await screen.settle();
    expect(shows()).toEqual(['first', '', '']);
    expect(screen.host.querySelector('tn-awaited')?.clientHeight).toBe(0);
  });

  it('is said to be on its way once it takes long, and no more when it has come', async () => {
    const coming = new Subject<string>();
    asks().answer = coming;
    screen.fixture.detectChanges();
    expect(shows()).toEqual(['nothing', '', '']);
    await screen.until(() => screen.words('[role=status]') === 'Reading');
    coming.next('there');
    coming.complete();
    await screen.settle();
    expect(shows()).toEqual(['there', '', '']);
  });

  it('says why it did not come, and asks again when told to', async () => {
    asks().answer = throwError(() => GONE);
    await screen.settle();
    expect(shows()).toEqual(['nothing', 'Treenail does not answer. Look whether it is running, then try again.', '']);
    asks().answer = of('now');
    await screen.press('Ask again');
    expect(shows()).toEqual(['now', '', '']);
    expect(asks().asked).toEqual([1, 1]);
  });

  it('is asked for again when the server is back, if it had not come', async () => {
    const reach = TestBed.inject(Reach);
    await screen.settle();
    reach.missed();
    await screen.settle();
    reach.heard();
    await screen.settle();
    expect(asks().asked).toEqual([1]);
    asks().answer = throwError(() => GONE);
    asks().loaded.reload();
    reach.missed();
    await screen.settle();
    expect(shows()[1]).toContain('does not answer');
    asks().answer = of('back');
    reach.heard();
    await screen.settle();
    expect(shows()).toEqual(['back', '', '']);
    expect(asks().asked).toEqual([1, 1, 1]);
  });

  it('can not be asked for twice at once', async () => {
    asks().answer = throwError(() => GONE);
    await screen.settle();
    asks().answer = new Subject();
    screen.button('Ask again').click();
    screen.fixture.detectChanges();
    expect(screen.button('Ask again').disabled).toBeTrue();
  });

  it('stays as it was answered last when it is asked for again in vain', async () => {
    await screen.settle();
    asks().answer = throwError(() => GONE);
    asks().loaded.reload();
    await screen.settle();
    expect(shows().slice(0, 2)).toEqual(['first', jasmine.stringContaining('does not answer')]);
    asks().answer = of('second');
    await screen.press('Ask again');
    expect(shows()).toEqual(['second', '', '']);
  });

  it('does not stay when something else is asked for', async () => {
    await screen.settle();
    asks().answer = throwError(() => GONE);
    asks().id.set(2);
    await screen.settle();
    expect(shows().slice(0, 2)).toEqual(['nothing', jasmine.stringContaining('does not answer')]);
    expect(asks().asked).toEqual([1, 2]);
  });

  it('is waited for in silence where the screen does without it, but not missed in silence', async () => {
    const coming = new Subject<string>();
    asks().answer = coming;
    screen.fixture.detectChanges();
    await screen.until(() => screen.words('[role=status]') === 'Reading');
    expect(screen.words('.silent')).toBe('');
    coming.error(GONE);
    await screen.settle();
    expect(screen.words('.silent .error')).toContain('does not answer');
  });
});
