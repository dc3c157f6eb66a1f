import { Package } from './package.ts';

/** What is made once of a package. */

/** The same function, but it works once for a package, and again only where the package has let go of what it made. */
export function onceFor<T>(make: (pkg: Package) => T): (pkg: Package) => T {
  const made = new WeakMap<object, { it: T }>();
  return (pkg) => {
    const before = made.get(pkg.cacheKey);
    if (before) return before.it;
    const it = make(pkg);
    made.set(pkg.cacheKey, { it });
    return it;
  };
}
