/**
 * The first visit came before there was a service worker: what belongs to the page is kept now, and nothing of a version before. Then looks
 * once more, so that the colors are kept too.
 */
export async function withoutNetwork(look: () => Promise<void>) {
  if (!navigator.serviceWorker) return; // without HTTPS
  try {
    await navigator.serviceWorker.register('/slip/worker.js');
    await navigator.serviceWorker.ready;
    const shell = await caches.open('slip-shell');
    const mine = performance
      .getEntriesByType('resource')
      .flatMap((r) => (new URL(r.name).pathname.startsWith('/assets/') ? r.name : []));
    await shell.put('/slip/', await fetch('/slip/', { cache: 'no-cache' }));
    for (const url of mine) if (!(await shell.match(url))) await shell.add(url);
    for (const old of await shell.keys())
      if (new URL(old.url).pathname.startsWith('/assets/') && !mine.includes(old.url)) await shell.delete(old);
    await look();
  } catch {
    // A browser that keeps nothing shows the slip while there is a network.
  }
}
