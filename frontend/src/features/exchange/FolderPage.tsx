import { Page } from "../../ui/Page";
import { OfficeTabs } from "../office/OfficeTabs";
import { usePageSubject } from "../students/subject/usePageSubject";
import { BringIn } from "./BringIn";

/** The college as one folder of tables: in and out. */
export function FolderPage() {
  const { term } = usePageSubject();
  return (
    <Page title="In and out" aside={<OfficeTabs of="registrar" />}>
      <div className="mt-3 grid gap-x-10 gap-y-8 border-t border-ink pt-4 lg:grid-cols-[minmax(0,1fr)_300px]">
        <BringIn />
        <section aria-labelledby="out">
          <h2 id="out" className="text-[20px]">
            Out
          </h2>
          <Files
            title="The whole college"
            says="Everything that can be read in again; read back, it is the same."
            files={[
              ["As .zip", "/api/exchange/folder?form=zip"],
              ["As .xlsx", "/api/exchange/folder?form=xlsx"],
            ]}
          />
          {term && (
            <>
              <Files
                title="This term alone"
                says="Its sections, hours, windows and so on, without people and courses."
                files={[
                  ["As .zip", `/api/exchange/folder?form=zip&term=${term}`],
                  ["As .xlsx", `/api/exchange/folder?form=xlsx&term=${term}`],
                ]}
              />
              <Files
                title="Who is registered"
                says="Every registration of this term, a line each."
                files={[["Table file", `/api/exchange/terms/${term}/registrations`]]}
              />
              <Files
                title="Rosters of this term"
                says="For learning platforms: OneRoster 1.2 CSV."
                files={[["As .zip", `/api/exchange/terms/${term}/rosters`]]}
              />
            </>
          )}
          <Files
            title="Templates"
            says="Every table with its columns, to be filled; the schema is for programs."
            files={[
              ["As .zip", "/api/exchange/template?form=zip"],
              ["As .xlsx", "/api/exchange/template?form=xlsx"],
              ["JSON Schema", "/api/exchange/schema"],
            ]}
          />
        </section>
      </div>
    </Page>
  );
}

type FilesProps = { title: string; says: string; files: [string, string][] };

function Files({ title, says, files }: FilesProps) {
  return (
    <div className="mt-3 border-t border-hair pt-2">
      <h3 className="font-sans text-[14px] font-semibold">{title}</h3>
      <p className="text-[13px] text-soft">{says}</p>
      <p className="mt-1 flex flex-wrap gap-x-4">
        {files.map(([name, path]) => (
          <a key={path} className="link" href={path} download>
            {name}
            <span className="sr-only">: {title}</span>
          </a>
        ))}
      </p>
    </div>
  );
}
