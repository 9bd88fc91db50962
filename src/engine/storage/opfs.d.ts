/** What this origin's own file system offers beside the standard library's types (WHATWG File System). */
interface FileSystemSyncAccessHandle {
  write(data: AllowSharedBufferSource, options?: { at?: number }): number;
  truncate(size: number): void;
  flush(): void;
  close(): void;
}

interface FileSystemFileHandle {
  createSyncAccessHandle(): Promise<FileSystemSyncAccessHandle>;
  move(name: string): Promise<void>;
}
