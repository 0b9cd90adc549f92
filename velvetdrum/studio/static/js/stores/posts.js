// Channels: what they take, and finished files on their way to them.

import { ask, refusalOf } from "../lib/api.js";
import { wait } from "../lib/time.js";
import { size } from "../lib/amounts.js";
import { partWith } from "../lib/studio_part.js";

const TURN = 500;

export class Posts extends partWith("messages") {
  /** @type {any[]} */
  channels = [];
  fault = "";
  /** @type {Record<string, any[]>} */
  of = {}; // export id -> its posts, the newest first
  watching = false;
  async load() {
    try {
      this.channels = await ask("/channels");
      this.fault = "";
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.fault = problem.message;
    }
  }

  /** @param {any} ident */
  nameOf(ident) {
    const found = this.channels.find((channel) => channel.id === ident);
    return found ? found.name : ident;
  }

  /** @param {any} item */
  async open(item) {
    this.of = { ...this.of, [item.id]: await ask(`/exports/${item.id}/posts`).catch(() => []) };
    this.watch();
  }

  /** @param {any} item */
  listOf(item) {
    return this.of[item.id] || [];
  }

  /**
   * @param {any} item
   * @param {FieldEvent} event
   */
  chosen(item, event) {
    const channel = event.target.value;
    event.target.value = "";
    if (channel) this.post(item, channel);
  }

  /**
   * @param {any} item
   * @param {string} channel
   */
  async post(item, channel) {
    try {
      const made = await ask(`/exports/${item.id}/posts`, { json: { channel } });
      this.of = { ...this.of, [item.id]: [made, ...this.listOf(item)] };
      this.watch();
    } catch (thrown) {
      const problem = refusalOf(thrown);
      this.messages.tell(problem.message);
    }
  }

  /**
   * @param {any} post
   * @param {string} what
   */
  async does(post, what) {
    await ask(`/posts/${post.id}/${what}`, { method: "POST" }).catch((problem) =>
      this.messages.tell(problem.message),
    );
    await this.open({ id: post.export });
  }

  /** @param {any} post */
  line(post) {
    const to = this.nameOf(post.channel);
    if (post.state !== "running") return `${to}: ${post.answer}`;
    const sent = post.bytes && post.sent >= post.bytes ? "looked at there" : `${size(post.sent)} sent`;
    return `${to}: ${sent}`;
  }

  get running() {
    return Object.values(this.of)
      .flat()
      .filter((post) => post.state === "running");
  }

  async watch() {
    if (this.watching) return;
    this.watching = true;
    while (this.running.length) {
      await wait(TURN);
      for (const post of this.running) {
        const now = await ask(`/posts/${post.id}`).catch(() => post);
        const list = this.of[post.export].map((other) => (other.id === now.id ? now : other));
        this.of = { ...this.of, [post.export]: list };
      }
    }
    this.watching = false;
  }
}
