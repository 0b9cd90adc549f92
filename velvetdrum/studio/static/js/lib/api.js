// Talking to the server: every request carries the mark that other sites can't send.

const MARK = { "X-Velvet-Drum": "1" };

/** A refusal from the server. `status` 0 means that no answer came at all. */
export class Refusal extends Error {
  /**
   * @param {number | undefined} status
   * @param {string} message
   * @param {any} [data] what came with it
   */
  constructor(status, message, data = {}) {
    super(message);
    this.status = status;
    this.data = data;
  }
}

/**
 * What was caught, as one kind: a refusal as it is; any other error with its sentence, without a status.
 * @param {unknown} thrown
 * @returns {Refusal}
 */
export function refusalOf(thrown) {
  if (thrown instanceof Refusal) return thrown;
  const refusal = new Refusal(undefined, thrown instanceof Error ? thrown.message : String(thrown));
  if (thrown instanceof Error) refusal.name = thrown.name;
  return refusal;
}

/**
 * Ask the server. `json` is sent as a JSON body. Gives JSON, or bytes with `bytes: true`.
 * @param {string} path
 * @param {{method?: string, json?: any, bytes?: boolean, signal?: AbortSignal}} [how]
 * @returns {Promise<any>}
 */
export async function ask(path, { method, json, bytes, signal } = {}) {
  /** @type {RequestInit & { headers: Record<string, string> }} */
  const options = {
    method: method || (json ? "POST" : "GET"),
    headers: { Accept: "application/json", ...MARK },
    signal,
  };
  if (json) {
    options.headers["Content-Type"] = "application/json";
    options.body = JSON.stringify(json);
  }
  let answer;
  try {
    answer = await fetch(path, options);
  } catch (problem) {
    if (refusalOf(problem).name === "AbortError") throw problem;
    throw new Refusal(0, "The server does not answer.");
  }
  if (!answer.ok) {
    const data = await answer.json().catch(() => ({}));
    throw new Refusal(answer.status, data.error || "This could not be done.", data);
  }
  return bytes ? answer.arrayBuffer() : answer.json();
}

/**
 * Send a file as the request's body. `onShare` hears shares from 0 to 1; `hold.abort` stops it.
 * @param {string} path
 * @param {File} file
 * @param {(share: number) => void} onShare
 * @param {{ abort?: () => void }} hold
 * @returns {Promise<any>}
 */
export function send(path, file, onShare, hold) {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    hold.abort = () => request.abort();
    request.open("POST", path);
    request.setRequestHeader("X-Velvet-Drum", "1");
    request.setRequestHeader("Accept", "application/json");
    request.setRequestHeader("X-File-Name", encodeURIComponent(file.name));
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onShare(event.total ? event.loaded / event.total : 0);
    request.onerror = () => reject(new Refusal(0, "The server does not answer, or it refused the file. Try again."));
    request.onabort = () => reject(new Refusal(0, ""));
    request.onload = () => {
      /** @type {any} */
      let data = {};
      try {
        data = JSON.parse(request.responseText);
      } catch {
        /* the sentence below serves */
      }
      if (request.status < 300) resolve(data);
      else reject(new Refusal(request.status, data.error || "The file was not taken.", data));
    };
    request.send(file);
  });
}

/**
 * Pictures from a packed answer: [{number, blob}].
 * @param {ArrayBuffer} buffer
 * @param {string} type
 */
export function unpack(buffer, type) {
  const view = new DataView(buffer);
  const out = [];
  for (let at = 0; at < buffer.byteLength;) {
    const number = view.getUint32(at, true);
    const size = view.getUint32(at + 4, true);
    out.push({ number, blob: new Blob([new Uint8Array(buffer, at + 8, size)], { type: `image/${type}` }) });
    at += 8 + size;
  }
  return out;
}
