/** Hands bytes to the person as a file. */
export function saveAs(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  // the download has begun by then
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}

/** A name that every system takes for a file. */
export const fileName = (text: string): string => text.replace(/[\\/:*?"<>|]+/g, ' ').trim() || 'untitled';
