import { untrack } from 'svelte';
import { searchParams } from 'sv-router';
import { route } from './router';

/**
 * Keeps the settings of a view in its address, so that the view can be mailed: those that the address has are set once, when the view
 * opens; afterward the address follows. now gives each setting as text, empty where it is as it always is. Only below the path.
 */
export function inAddress(path: () => string, now: () => Record<string, string>, set: (key: string, value: string) => void) {
  untrack(() => {
    const keys = Object.keys(now());
    for (const [key, value] of new URLSearchParams(location.search)) if (keys.includes(key)) set(key, value);
  });
  $effect(() => {
    const want = Object.entries(now());
    if (!route.pathname.startsWith(path()) || !location.pathname.startsWith(path())) return;
    untrack(() => {
      const is = new URLSearchParams(location.search);
      for (const [key, value] of want) {
        if ((is.get(key) ?? '') === value) continue;
        if (value) searchParams.set(key, value, { replace: true });
        else searchParams.delete(key, undefined, { replace: true });
      }
    });
  });
}
