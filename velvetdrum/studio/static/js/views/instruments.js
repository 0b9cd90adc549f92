// The waveform of luminance and the histogram, painted.

const CHANNELS = ["coral", "leaf", "sky", "ink"];

export class Instruments {
  /**
   * @param {any} waveform
   * @param {any} histogram
   */
  constructor(waveform, histogram) {
    this.__v_skip = true;
    this.waveform = waveform;
    this.histogram = histogram;
  }
  /** @param {any} found */
  show(found) {
    this.paintWaveform(found.waveform);
    this.paintHistogram(found.histogram);
  }
  /** @param {string} name */
  colour(name) {
    return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  }
  /**
   * Rows from dark to light, each a line of two hexadecimal digits a column.
   * @param {any} rows
   */
  paintWaveform(rows) {
    const [width, height] = [rows[0].length / 2, rows.length];
    const context = this.waveform.getContext("2d");
    Object.assign(this.waveform, { width, height });
    const image = context.createImageData(width, height);
    rows.forEach((/** @type {any} */ row, /** @type {number} */ level) => {
      for (let x = 0; x < width; x += 1) {
        const at = ((height - 1 - level) * width + x) * 4;
        const strong = parseInt(row.slice(2 * x, 2 * x + 2), 16);
        image.data.set([255, 255, 255, strong], at);
      }
    });
    context.putImageData(image, 0, 0);
    context.globalCompositeOperation = "source-in";
    context.fillStyle = this.colour("sea");
    context.fillRect(0, 0, width, height);
    context.globalCompositeOperation = "source-over";
  }
  /** @param {any} channels */
  paintHistogram(channels) {
    const scale = window.devicePixelRatio || 1;
    const box = this.histogram.getBoundingClientRect();
    const [width, height] = [Math.round(box.width * scale), Math.round(box.height * scale)];
    Object.assign(this.histogram, { width, height });
    const context = this.histogram.getContext("2d");
    context.lineWidth = 1.5 * scale;
    channels.forEach((/** @type {any} */ bins, /** @type {number} */ index) => {
      context.strokeStyle = this.colour(CHANNELS[index]);
      context.beginPath();
      bins.forEach((/** @type {number} */ share, /** @type {any} */ bin) => {
        const x = (bin / (bins.length - 1)) * (width - 2) + 1;
        const y = height - 1 - Math.sqrt(share) * (height - 3);
        if (bin) context.lineTo(x, y);
        else context.moveTo(x, y);
      });
      context.stroke();
    });
  }
}
