import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { foundStudentsQuery } from "../../../api/registrarQueries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page } from "../../../ui/Page";
import { SearchField } from "../../../ui/SearchField";
import { ForgottenPassword } from "../../access/registrar/ForgottenPassword";
import { SignSomebodyOut } from "../../access/registrar/SignSomebodyOut";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../subject/usePageSubject";

/** Finding anybody who studies here. */
export function StudentsPage() {
  const { term } = usePageSubject();
  const [search, setSearch] = useState("");
  const found = useQuery(foundStudentsQuery(search));
  return (
    <Page title="Students" aside={<OfficeTabs of="registrar" />}>
      <div className="mt-3 border-t border-ink pt-4">
        <SearchField
          label="Look for a student"
          placeholder="Name or user name"
          onSearch={setSearch}
        />
      </div>
      {found.isError && <ProblemNotice problem={found.error} />}
      <p className="mt-3 text-soft" role="status">
        {search.length < 2
          ? "Type two letters of the name, or more."
          : found.data?.length === 0
            ? "Nobody is called like that."
            : ""}
      </p>
      <ul className="mt-1">
        {search.length >= 2 &&
          found.data?.map(({ id, full_name, username, program }) => (
            <li key={id} className="flex flex-wrap gap-x-4 border-b border-hair py-2">
              <Link className="link w-56 font-semibold" to={`/office/${term}/students/${id}`}>
                {full_name}
              </Link>
              <span className="number w-40 text-soft">{username}</span>
              <span className="text-soft">{program}</span>
            </li>
          ))}
      </ul>
      <ForgottenPassword />
      <SignSomebodyOut />
    </Page>
  );
}
