/** The words of an operation's name: "changeColor" is "change color". */
export function inWords(what: string): string {
  return what.replace(/[A-Z]/g, (c) => ' ' + c.toLowerCase());
}
