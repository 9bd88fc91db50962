import { useRef, type ReactNode } from 'react';
import type { BroughtFile } from '../../engine/index.ts';

interface Props {
  accept: string;
  label: string;
  icon?: ReactNode;
  multiple?: boolean;
  className?: string;
  /** Ask for lasting handles where the browser offers them. */
  handles?: boolean;
  onFiles(files: BroughtFile[]): void;
}

/** A button that chooses files: by lasting handle where offered, else by the plain file field. */
export function FileButton({
  accept,
  label,
  icon,
  multiple = false,
  className = 'key',
  handles = false,
  onFiles,
}: Props) {
  const field = useRef<HTMLInputElement>(null);
  const choose = async (): Promise<void> => {
    if (!handles || !('showOpenFilePicker' in window)) {
      field.current?.click();
      return;
    }
    try {
      const picked = await window.showOpenFilePicker({ multiple });
      onFiles(await Promise.all(picked.map(async (handle) => ({ handle, file: await handle.getFile() }))));
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'AbortError')) field.current?.click();
    }
  };
  return (
    <>
      <button className={className} onClick={() => void choose()}>
        {icon}
        {label}
      </button>
      <input
        ref={field}
        type="file"
        hidden
        aria-hidden
        tabIndex={-1}
        accept={accept}
        multiple={multiple}
        onChange={(event) => {
          const files = [...(event.currentTarget.files ?? [])];
          event.currentTarget.value = '';
          if (files.length) onFiles(files.map((file) => ({ file, handle: null })));
        }}
      />
    </>
  );
}
