import type { Attachment } from 'svelte/attachments';

/** Closes a menu when somebody presses or goes to anything outside of it. */
export const outside: Attachment<HTMLDetailsElement> = (menu) => {
  const leave = (e: Event) => {
    if (menu.open && !menu.contains(e.target as Node)) menu.open = false;
  };
  const on = ['click', 'focusin'];
  for (const type of on) window.addEventListener(type, leave);
  return () => {
    for (const type of on) window.removeEventListener(type, leave);
  };
};
