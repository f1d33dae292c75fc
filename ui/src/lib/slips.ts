// The slip is a page of its own (src/slip), with a service worker of its own.

/** Opens the slip of a house's library, or of one of its sets, as a small window beside the work. */
export function openSlip(house: number, set?: number) {
  const at = `/slip/h/${house}${set ? `/${set}` : ''}`;
  if (!window.open(at, 'slip', 'popup,width=340,height=760')) location.assign(at);
}

/** Forgets what slips have seen of the account that signs out. */
export async function forgetSlips() {
  for (const key of Object.keys(localStorage)) if (key.startsWith('slip-seen /slip/h/')) localStorage.removeItem(key);
  if (typeof caches !== 'undefined') await caches.delete('slip-account').catch(() => false);
}
