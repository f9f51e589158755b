/** Where the browser lets a page write into a folder (File System Access). */
declare function showDirectoryPicker(options?: { readonly mode?: 'read' | 'readwrite' }): Promise<FileSystemDirectoryHandle>;
