/** Identifiers by which a JPEG names a packet of the metadata standard, and the further packets of one that is too long (ISO 16684-1, -3). */
export const XMP = 'http://ns.\x61dobe.com/xap/1.0/\0';
export const XMP_MORE = 'http://ns.\x61dobe.com/xmp/extension/\0';
