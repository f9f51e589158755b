/** Text as it may stand in a page, between tags and in attributes. */
export const escaped = (text: string): string => text.replace(/[&<>"'`\u0000-\u0008\u000b-\u001f]/g, (c) => (c < ' ' ? '' : `&#${c.charCodeAt(0)};`));

/** What a site puts where the page is to be seen; the file lies beside it. */
export const embedding = (file: string, words: string, { width, height }: { readonly width: number; readonly height: number }): string =>
  `<iframe src="${escaped(encodeURI(file))}" title="${escaped(words)}" loading="lazy" allow="accelerometer; gyroscope" style="width:100%;aspect-ratio:${width}/${height};border:0"></iframe>`;
