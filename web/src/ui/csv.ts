/** Text of a CSV file: quoted where needed, a leading sign of formula defused for spreadsheets. */
export function csvText(rows: (string | number | null)[][]): string {
  const cell = (value: string | number | null) => {
    let text = value === null ? "" : String(value);
    if (typeof value === "string" && /^[=+@\t\r]|^-(?![\d.])/.test(text)) text = `'${text}`;
    return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  return `${rows.map((row) => row.map(cell).join(",")).join("\r\n")}\r\n`;
}

/** Offer rows as a CSV file. */
export function saveCsv(name: string, rows: (string | number | null)[][]) {
  saveBlob(name, new Blob(["\ufeff", csvText(rows)], { type: "text/csv" }));
}

/** Offer text as a file. */
export const saveText = (name: string, text: string) => saveBlob(name, new Blob([text], { type: "application/json" }));

function saveBlob(name: string, blob: Blob) {
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** Cells of a column pasted from a spreadsheet: one a line, only the first column of several. */
export function pastedColumn(text: string): string[] {
  const lines = text.replace(/\r\n?/g, "\n").replace(/\n+$/, "").split("\n");
  return lines.map((line) => (line.split("\t")[0] ?? "").trim());
}
