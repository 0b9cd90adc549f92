// Short messages at the foot of the page.

export class Messages {
  /** @type {any[]} */
  toasts = [];
  announced = ""; // what a screen reader says and nobody sees: play, pause

  /** @param {string} text */
  announce(text) {
    this.announced = text;
  }

  /**
   * @param {string} text
   * @param {string} [action]
   * @param {any} [run]
   * @returns {() => void} what takes it away
   */
  tell(text, action = "", run = () => {}) {
    const id = Math.random();
    const close = () => {
      this.toasts = this.toasts.filter((other) => other.id !== id);
    };
    const toast = {
      id,
      text,
      action,
      run: () => {
        close();
        run();
      },
    };
    this.toasts.push(toast);
    setTimeout(close, action ? 12000 : 5000);
    return close;
  }
}
