// Short messages at the foot of the page.

import { Part } from "../lib/part.js";

export class Messages extends Part {
  toasts = [];
  tell(text, action = "", run = () => {}) {
    const toast = { id: Math.random(), text, action };
    toast.run = () => {
      this.toasts = this.toasts.filter((other) => other.id !== toast.id);
      run();
    };
    this.toasts.push(toast);
    setTimeout(
      () => {
        this.toasts = this.toasts.filter((other) => other.id !== toast.id);
      },
      action ? 12000 : 5000,
    );
  }
}
