// Names of things that are made on the page.

/** A new id: eight hexadecimal digits, as the server makes them. */
export function newId() {
  return Math.random().toString(16).slice(2, 10).padEnd(8, "0");
}
