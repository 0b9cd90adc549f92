// Short messages at the foot of the page.

export class Messages {
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
