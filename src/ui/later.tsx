import { type ComponentType, lazy, Suspense } from 'react';

/** Stands where a part of a page did not come: by a new version, or without a network. */
function NotLoaded() {
  return (
    <p role="alert" className="text-error">
      This part of the page did not load. Reload the page; what you entered elsewhere is kept.
    </p>
  );
}

/**
 * A part of a page that is loaded when it is first shown. What does not load says so, and takes nothing else with it.
 * @param meanwhile what is said until it is there
 */
export function later<P extends object>(load: () => Promise<ComponentType<P>>, meanwhile = ''): ComponentType<P> {
  const Part = lazy(() =>
    load().then(
      (part) => ({ default: part as ComponentType<object> }),
      () => ({ default: NotLoaded as ComponentType<object> }),
    ),
  );
  const shown = (props: P) => (
    <Suspense fallback={meanwhile && <p className="muted">{meanwhile}</p>}>
      <Part {...props} />
    </Suspense>
  );
  return shown;
}
