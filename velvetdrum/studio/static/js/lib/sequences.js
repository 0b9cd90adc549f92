// Pictures one after the other as one clip: numbered files as a ZIP (stored, APPNOTE 6.3), and which pictures move.

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let value = n;
  for (let bit = 0; bit < 8; bit += 1) value = value & 1 ? 0xedb88320 ^ (value >>> 1) : value >>> 1;
  return value >>> 0;
});

/**
 * CRC-32 of bytes (ISO 3309).
 * @param {any} bytes
 */
function crc(bytes) {
  let value = 0xffffffff;
  for (const byte of bytes) value = TABLE[(value ^ byte) & 0xff] ^ (value >>> 8);
  return (value ^ 0xffffffff) >>> 0;
}

/**
 * Little-endian words: pairs of a width in bytes and a value.
 * @param {...any} pairs
 */
function words(...pairs) {
  const view = new DataView(new ArrayBuffer(pairs.reduce((sum, [width]) => sum + width, 0)));
  let at = 0;
  for (const [width, value] of pairs) {
    if (width === 2) view.setUint16(at, value, true);
    else view.setUint32(at, value, true);
    at += width;
  }
  return new Uint8Array(view.buffer);
}

/**
 * Files as one ZIP, named as they are, without compression. Pictures are compressed already.
 * @param {File[]} files
 * @param {string} name
 */
export async function zipped(files, name) {
  const parts = [];
  const directory = [];
  let offset = 0;
  for (const file of files) {
    const title = new TextEncoder().encode(file.name);
    const sum = crc(new Uint8Array(await file.arrayBuffer()));
    const shared = [
      [2, 0x0800],
      [2, 0],
      [2, 0],
      [2, 0x21],
      [4, sum],
      [4, file.size],
      [4, file.size],
      [2, title.length],
      [2, 0],
    ];
    parts.push(words([4, 0x04034b50], [2, 20], ...shared), title, file);
    directory.push(
      words([4, 0x02014b50], [2, 20], [2, 20], ...shared, [2, 0], [2, 0], [2, 0], [4, 0], [4, offset]),
      title,
    );
    offset += 30 + title.length + file.size;
  }
  const size = directory.reduce((sum, part) => sum + part.length, 0);
  const count = files.length;
  const end = words([4, 0x06054b50], [2, 0], [2, 0], [2, count], [2, count], [4, size], [4, offset], [2, 0]);
  return new File([...parts, ...directory, end], name, { type: "application/zip" });
}

/**
 * True for files that are one clip: several pictures with numbers in their names.
 * @param {File[]} files
 */
export function areNumbered(files) {
  return (
    files.length > 1 &&
    files.every((/** @type {File} */ file) => /\d\D*$/.test(file.name) && /\.(png|jpe?g|webp)$/i.test(file.name))
  );
}

/**
 * True for a GIF, PNG or WebP that says of itself that it moves.
 * @param {File} file
 */
export async function isAnimated(file) {
  if (!/\.(gif|png|apng|webp)$/i.test(file.name)) return false;
  const head = new TextDecoder("latin1").decode(await file.slice(0, 65536).arrayBuffer());
  return head.includes("acTL") || head.includes("NETSCAPE2.0") || (head.startsWith("RIFF") && head.includes("ANIM"));
}
