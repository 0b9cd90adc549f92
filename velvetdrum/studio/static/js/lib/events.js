// What happened, told to whoever wants to hear of it: stores know nothing of what is drawn from them.

export class Events {
  constructor() {
    /** @type {Map<string, Set<(detail?: any) => void>>} */
    this.heard = new Map();
  }

  /**
   * Hear of a sort of event from now on.
   * @param {string} name
   * @param {(detail?: any) => void} hear
   * @returns {() => void} what ends it
   */
  on(name, hear) {
    if (!this.heard.has(name)) this.heard.set(name, new Set());
    /** @type {Set<any>} */ (this.heard.get(name)).add(hear);
    return () => this.heard.get(name)?.delete(hear);
  }

  /**
   * @param {string} name
   * @param {any} [detail]
   */
  emit(name, detail) {
    for (const hear of [...(this.heard.get(name) || [])]) hear(detail);
  }
}
