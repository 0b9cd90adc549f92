// Playing, seeking, looping, volume: what the controls under the picture do.

export const transport = {
  async toggle() {
    if (this.playing) {
      this.player.pause();
      this.stopped();
      return;
    }
    if (!this.track) { this.tell("There is no sound in this project yet. Drop one on the page."); return; }
    this.player.frame = this.frame;
    this.playing = true;
    this.threeUp = false;
    this.handlesView.draw();
    await this.player.play();
    if (this.player.playing) this.preview.play(this.player);
  },
  stopped() {
    this.preview.stop();
    this.playing = false;
    this.frame = this.player.frame;
    this.askHandles();
    this.picture.rate = null;
    this.showStill();
    this.followWaves();
    this.loadNow();
  },
  async seek(frame) {
    const target = Math.max(0, Math.min(Math.round(frame), this.frames - 1));
    const was = this.playing;
    if (was) this.preview.stop();
    this.player.pause();
    this.player.frame = this.frame = target;
    this.followWaves();
    if (was) {
      this.playing = true;
      await this.player.play();
      if (this.player.playing) this.preview.play(this.player);
    } else {
      this.showStill();
      clearTimeout(this.nowTimer);
      this.nowTimer = setTimeout(() => this.loadNow(), 150);
    }
  },
  stepBack() { this.seek(this.frame - 1); },
  stepOn() { this.seek(this.frame + 1); },
  setVolume(event) {
    this.volume = Number(event.target.value);
    this.muted = false;
    this.player.setVolume(this.volume ** 2);
  },
  toggleMute() {
    this.muted = !this.muted;
    this.player.setVolume(this.muted ? 0 : this.volume ** 2);
  },
  setLoop(from, to) {
    const first = Math.max(0, Math.round(this.snapped(from) * this.rate));
    const last = Math.min(this.frames, Math.max(first + 3, Math.round(this.snapped(to) * this.rate)));
    this.loop = { first, last, on: true };
    this.applyLoop();
  },
  toggleLoop() {
    if (!this.loop) {
      const first = Math.min(this.frame, Math.max(0, this.frames - 3));
      this.loop = { first, last: Math.min(this.frames, first + Math.round(4 * this.rate)), on: true };
    } else this.loop = { ...this.loop, on: !this.loop.on };
    this.applyLoop();
  },
  clearLoop() { this.loop = null; this.applyLoop(); },
  get looping() { return Boolean(this.loop && this.loop.on); },
  get loopText() {
    if (!this.loop) return "loop";
    return `loop ${((this.loop.last - this.loop.first) / this.rate).toFixed(1)} s`;
  },
  applyLoop() {
    this.player.loop = this.looping ? { first: this.loop.first, last: this.loop.last } : null;
    if (this.playing) this.seek(this.looping && this.frame >= this.loop.last ? this.loop.first : this.frame);
    this.strip.draw();
  },
};
