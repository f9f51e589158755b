/** Files put together as a zip that stores them as they are: they are packed already. Their date is the same always, so that the same files give the same zip. */
export async function storedZip(files: readonly { readonly name: string; readonly blob: Blob }[]): Promise<Blob> {
  const { BlobReader, BlobWriter, ZipWriter } = await import('@zip.js/zip.js');
  const zip = new ZipWriter(new BlobWriter('application/zip'), { level: 0, useWebWorkers: false, extendedTimestamp: false });
  for (const { name, blob } of files) await zip.add(name, new BlobReader(blob), { lastModDate: new Date(2000, 0, 1) });
  return zip.close();
}
