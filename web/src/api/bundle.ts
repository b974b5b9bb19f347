// Several files, or a folder, as the one ZIP that the server takes: nothing of it is read here.
import { zip } from "fflate";

interface Named {
  path: string;
  file: File;
}

/** Files that were dropped, with their paths when folders were. Must be called within the event: the list is gone after it. */
export function dropped(transfer: DataTransfer): Promise<Named[]> {
  const entries = [...transfer.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null);
  if (entries.length === 0) return Promise.resolve([...transfer.files].map((file) => ({ path: file.name, file })));
  return Promise.all(entries.map((e) => walk(e))).then((all) => all.flat());
}

async function walk(entry: FileSystemEntry): Promise<Named[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
    return [{ path: entry.fullPath.replace(/^\//, ""), file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const out: Named[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (some.length === 0) return out;
    for (const inner of some) out.push(...(await walk(inner)));
  }
}

export const named = (files: File[]): Named[] => files.map((file) => ({ path: file.name, file }));

/** One file stays as it is; several become a ZIP, stored. */
export async function bundle(files: Named[]): Promise<File | null> {
  const [first] = files;
  if (!first) return null;
  if (files.length === 1) return first.file;
  const content: Record<string, Uint8Array> = {};
  for (const { path, file } of files) content[path] = new Uint8Array(await file.arrayBuffer());
  const bytes = await new Promise<Uint8Array>((done, fail) =>
    zip(content, { level: 0 }, (error, data) => (error ? fail(error) : done(data))),
  );
  const mesh = files.find((f) => MESH.test(f.path) && !/\.(zip|usdz)$/i.test(f.path)) ?? first;
  const stem = mesh.file.name.replace(/\.[^.]*$/, "");
  return new File([bytes as Uint8Array<ArrayBuffer>], `${stem}.zip`);
}

/** What is taken for a mesh, and so has a unit that must be asked for. */
export const MESH = /\.(glb|gltf|obj|ply|stl|usd|usda|usdc|usdz|zip)$/i;
export const MESH_FILES =
  ".glb,.gltf,.obj,.ply,.stl,.usd,.usda,.usdc,.usdz,.zip,.mtl,.bin,.png,.jpg,.jpeg,.webp,.tif,.tiff,.exr,.hdr";
export const PICTURE_FILES = ".png,.jpg,.jpeg,.webp,.tif,.tiff,.exr,.hdr";
