/** Things that are given out by their identifiers, each as often as it is there: a question may be asked twice. */
export class Uses<T extends { id: string }> {
  private left: T[];

  constructor(all: readonly T[]) {
    this.left = [...all];
  }

  take(id: string): T | undefined {
    const at = this.left.findIndex((one) => one.id === id);
    return at < 0 ? undefined : this.left.splice(at, 1)[0];
  }

  /** What was not taken, in its order. */
  rest(): readonly T[] {
    return this.left;
  }
}
