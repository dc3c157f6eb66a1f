import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { Component, DestroyRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatSnackBarHarness } from '@angular/material/snack-bar/testing';
import { Undo } from './undo';

@Component({ selector: 'tn-nothing', template: '' })
class Nothing {}

describe('The way back', () => {
  it('is offered with a word on what was done, and goes once it was taken', async () => {
    const fixture = TestBed.createComponent(Nothing);
    const loader = TestbedHarnessEnvironment.documentRootLoader(fixture);
    const screen = fixture.componentRef.injector.get(DestroyRef);
    let undone = 0;
    TestBed.inject(Undo).offer(screen, 'The filter “Unprotected” is forgotten', () => undone++);
    const bar = await loader.getHarness(MatSnackBarHarness);
    expect(await bar.getMessage()).toBe('The filter “Unprotected” is forgotten');
    expect(await bar.getActionDescription()).toBe('Undo');
    await bar.dismissWithAction();
    expect(undone).toBe(1);
    expect((await loader.getAllHarnesses(MatSnackBarHarness)).length).toBe(0);
    TestBed.inject(Undo).offer(screen, '3 findings decided', () => undone++);
    await loader.getHarness(MatSnackBarHarness);
    fixture.destroy();
    expect(undone).toBe(1);
    const gone = TestbedHarnessEnvironment.documentRootLoader(TestBed.createComponent(Nothing));
    expect((await gone.getAllHarnesses(MatSnackBarHarness)).length).toBe(0);
  });
});
