/** Whether every word is in a text, in any order, as somebody types who narrows a list that is in view. */
export function fits(words: string, ...text: (string | undefined)[]): boolean {
  const all = text.join(' ').toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((w) => all.includes(w));
}
