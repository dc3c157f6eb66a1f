/** Whether a key is meant for something else than a list: a field, a menu, a dialog, a control with keys of its own. */
export function isElsewhere(event: KeyboardEvent, list: HTMLElement): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return true;
  const target = event.target;
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) {
    // A checkbox takes no letters.
    return !(target instanceof HTMLInputElement && target.type === 'checkbox') || event.key === ' ';
  }
  if (document.querySelector('.cdk-overlay-pane:not(.mat-mdc-tooltip-panel) > *')) return true;
  const isRow = target === document.body || target.matches('tr');
  if (event.key === 'Enter') return !isRow;
  // Arrows move what has the focus: a group of choices has its own.
  return event.key.startsWith('Arrow') && !isRow && !list.contains(target);
}
