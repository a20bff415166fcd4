import { describe, expect, it } from "vitest";

import { chosenFiles, droppedFiles } from "./files";

const file = (name: string, path = "") => {
  const one = new File(["x"], name);
  Object.defineProperty(one, "webkitRelativePath", { value: path });
  return one;
};
const list = (files: File[]) => files as unknown as FileList;

type Tree = { [name: string]: Tree | File };

/** A folder as a browser gives it: a hundred entries at a time, then none. */
function entry(name: string, of: Tree | File): FileSystemEntry {
  if (of instanceof File) return { isFile: true, isDirectory: false, name, file: (give: (one: File) => void) => give(of) } as unknown as FileSystemEntry;
  const all = Object.entries(of).map(([name, below]) => entry(name, below));
  const createReader = () => {
    let at = 0;
    return { readEntries: (give: (some: FileSystemEntry[]) => void) => give(all.slice(at, (at += 100))) };
  };
  return { isFile: false, isDirectory: true, name, createReader } as unknown as FileSystemEntry;
}

const dropped = (entries: FileSystemEntry[], files: File[]) =>
  ({ items: entries.map((one) => ({ kind: "file", webkitGetAsEntry: () => one })), files }) as unknown as DataTransfer;

describe("files that are brought", () => {
  it("are taken as they are when they were chosen one by one", () => {
    expect(chosenFiles(list([file("notes.txt"), file("b.jpg")]))).toMatchObject({ passedOver: 0, folder: null, files: [{ name: "notes.txt" }, { name: "b.jpg" }] });
  });

  it("are the photos of a folder, by name, and the rest is counted", () => {
    const found = chosenFiles(list([file("IMG_10.jpg", "may/IMG_10.jpg"), file("IMG_9.CR2", "may/IMG_9.CR2"), file("notes.txt", "may/notes.txt"), file(".hidden.jpg", "may/.hidden.jpg")]));
    expect(found.files.map(({ name }) => name)).toEqual(["IMG_9.CR2", "IMG_10.jpg"]);
    expect(found).toMatchObject({ passedOver: 1, folder: "may" });
  });

  it("come from all folders below one that was dropped, however many there are", async () => {
    const many = Object.fromEntries(Array.from({ length: 250 }, (_, at) => [`${at}.jpg`, file(`${at}.jpg`)]));
    const tree = { below: many, "a.tif": file("a.tif"), "b.xmp": file("b.xmp") };
    const found = await droppedFiles(dropped([entry("may", tree)], [file("may")]));
    expect(found.files).toHaveLength(251);
    expect(found).toMatchObject({ passedOver: 1, folder: "may" });
  });

  it("may be dropped beside a folder", async () => {
    const alone = file("alone.jpg");
    const found = await droppedFiles(dropped([entry("alone.jpg", alone), entry("may", { "a.jpg": file("a.jpg") })], [alone, file("may")]));
    expect(found.files.map(({ name }) => name)).toEqual(["alone.jpg", "a.jpg"]);
  });
});
