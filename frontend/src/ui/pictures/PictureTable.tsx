type Props = { headings: string[]; rows: (string | number)[][] };

/** What a picture shows, as a table. */
export function PictureTable({ headings, rows }: Props) {
  return (
    <details className="mt-2">
      <summary className="w-fit py-1 text-[13px] text-soft hover:text-ink">As a table</summary>
      <section
        className="relative max-h-[320px] overflow-y-auto"
        aria-label="As a table"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, by keys as well
        tabIndex={0}
      >
        <table className="w-full text-[13px]">
          <thead>
            <tr className="border-b border-hair text-left text-small text-soft">
              {headings.map((heading) => (
                <th key={heading} className="py-1 pr-4 font-normal">
                  {heading}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.join()} className="border-b border-hair">
                {row.map((cell, place) => (
                  <td key={headings[place]} className="py-0.5 pr-4 tabular-nums">
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </details>
  );
}
