// Files out of a drop, those in folders among them.

/** Files that are taken of one drop at the most. */
export const MOST_FILES = 50;

/**
 * The files of a drop; of a folder those in it and in its folders, by name, without hidden ones.
 * @param {DataTransfer} transfer
 * @returns {Promise<File[]>}
 */
export async function droppedFiles(transfer) {
  // Asked for before anything is waited for: afterwards the drop is gone.
  const entries = [...(transfer.items || [])].map((item) => item.webkitGetAsEntry && item.webkitGetAsEntry());
  if (!entries.some((entry) => entry && entry.isDirectory)) return [...transfer.files];
  /** @type {File[]} */
  const files = [];
  for (const entry of entries) if (entry) await walk(entry, files);
  return files;
}

/**
 * @param {any} entry
 * @param {File[]} files
 */
async function walk(entry, files) {
  if (files.length >= MOST_FILES || entry.name.startsWith(".")) return;
  if (entry.isFile) {
    files.push(await new Promise((resolve, reject) => entry.file(resolve, reject)));
    return;
  }
  const reader = entry.createReader();
  for (;;) {
    // A reader gives a hundred at a time, then none.
    const some = await new Promise((resolve, reject) => reader.readEntries(resolve, reject));
    if (!some.length) return;
    const named = [...some].sort((a, b) => a.name.localeCompare(b.name));
    for (const inner of named) await walk(inner, files);
  }
}
