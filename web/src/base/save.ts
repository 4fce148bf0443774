/** Hands a text to the person as a file. */
export const saveFile = (name: string, type: string, text: string) => saveBlob(name, new Blob([text], { type }));

/** Hands bytes to the person as a file. */
export function saveBlob(name: string, bytes: Blob) {
  const url = URL.createObjectURL(bytes);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  URL.revokeObjectURL(url);
}
