/** Puts a text on the clipboard, where the browser lets it; the focus stays. */
export async function toClipboard(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    // Pages served without HTTPS from another machine have no clipboard; the old way still works there.
    const focus = document.activeElement;
    const area = document.createElement('textarea');
    area.value = text;
    document.body.append(area);
    area.select();
    const done = document.execCommand('copy');
    area.remove();
    if (focus instanceof HTMLElement) focus.focus();
    return done;
  }
}
