/** What can be a photo, by the end of its name: in a folder everything else is passed over. */
const PHOTO = /\.(jpe?g|png|webp|tiff?|hei[cf]|avif|jxl|dng|cr[23w]|nef|nrw|arw|sr2|raf|orf|rw2|pef|srw|3fr|iiq|x3f|rwl|bmp|gif)$/i;

/** Files that were dropped or chosen; what the folders among them hold besides photos is counted only. */
export interface Brought {
  files: File[];
  passedOver: number;
  /** The folder that they come from, if it is one. */
  folder: string | null;
}

const sorted = (files: File[]) => files.sort((one, other) => (one.webkitRelativePath || one.name).localeCompare(other.webkitRelativePath || other.name, undefined, { numeric: true }));

const isHidden = (file: File) => file.name.startsWith(".");

function fromFolder(found: File[], folder: string | null, single: File[] = []): Brought {
  const photos = found.filter((file) => PHOTO.test(file.name) && !isHidden(file));
  return { files: [...single, ...sorted(photos)], passedOver: found.filter((file) => !isHidden(file)).length - photos.length, folder };
}

/** What a file field holds. */
export function chosenFiles(list: FileList | null): Brought {
  const files = [...(list ?? [])];
  const folder = files[0]?.webkitRelativePath.split("/")[0];
  return folder ? fromFolder(files, folder) : { files, passedOver: 0, folder: null };
}

const entriesOf = (folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> =>
  new Promise((resolve) => {
    const reader = folder.createReader();
    const all: FileSystemEntry[] = [];
    // A reader gives a hundred at a time.
    const read = () =>
      reader.readEntries(
        (some) => {
          all.push(...some);
          if (some.length) read();
          else resolve(all);
        },
        () => resolve(all),
      );
    read();
  });

async function filesUnder(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile)
    return new Promise((resolve) =>
      (entry as FileSystemFileEntry).file(
        (file) => resolve([file]),
        () => resolve([]),
      ),
    );
  const found: File[] = [];
  for (const one of await entriesOf(entry as FileSystemDirectoryEntry)) found.push(...(await filesUnder(one)));
  return found;
}

/** What was dropped; folders with all that is below them. */
export async function droppedFiles(data: DataTransfer): Promise<Brought> {
  // The list is gone after the first wait.
  const entries = [...data.items].map((item) => (item.kind === "file" ? item.webkitGetAsEntry() : null));
  const single = [...data.files];
  const folders = entries.filter((entry): entry is FileSystemEntry => entry?.isDirectory ?? false);
  if (!folders.length) return { files: single, passedOver: 0, folder: null };
  const alone = single.filter((_, at) => !entries[at]?.isDirectory);
  const found: File[] = [];
  for (const folder of folders) found.push(...(await filesUnder(folder)));
  return fromFolder(found, folders.length === 1 ? (folders[0]?.name ?? null) : null, alone);
}
