import { query } from "../api/client";
import { tip } from "./Tip";

type Asked = Parameters<typeof query>[1];

const look = "inline-block min-h-6 leading-6 underline hover:text-ink";

/** CsvLink saves a list of a project, all of it, by the server's name of the list. */
export const CsvLink = ({ id, name, asked = {} }: { id: number; name: string; asked?: Asked }) => (
  <a className={look} href={query(`/api/projects/${id}/csv/${name}.csv`, asked)} {...tip("Save this list as CSV")}>
    CSV
  </a>
);

/** PrintLink opens a list of a project, all of it, as a page for paper. */
export const PrintLink = ({ id, name, asked = {} }: { id: number; name: string; asked?: Asked }) => (
  <a
    className={look}
    target="_blank"
    rel="noreferrer"
    href={query(`/api/projects/${id}/print/${name}`, asked)}
    {...tip("Open the whole list as a page to print")}
  >
    Print
  </a>
);

/** field is a text as CSV has it (RFC 4180); what a spreadsheet would take for a formula is text. */
const field = (text: string) => {
  const tame = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(tame) ? `"${tame.replaceAll('"', '""')}"` : tame;
};

/** CsvButton saves rows that the page has. */
export function CsvButton({ name, rows }: { name: string; rows: () => string[][] }) {
  const save = () => {
    const text = rows()
      .map((r) => r.map(field).join(","))
      .join("\r\n");
    const url = URL.createObjectURL(new Blob([text, "\r\n"], { type: "text/csv" }));
    const a = document.createElement("a");
    a.href = url;
    a.download = `${name}.csv`;
    a.click();
    URL.revokeObjectURL(url);
  };
  return (
    <button type="button" className={look} onClick={save} {...tip("Save this list as CSV")}>
      CSV
    </button>
  );
}
