import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { foundStudentsQuery } from "../../api/queries";
import { ProblemNotice } from "../../ui/Notice";
import { Page } from "../../ui/Page";
import { SearchField } from "../../ui/SearchField";
import type { SignedIn } from "../session/useSignedIn";
import { FeeHolds } from "./FeeHolds";

/** The cashier: find a student, place and lift fee holds. */
export function CashierPage({ session }: { session: SignedIn }) {
  const [search, setSearch] = useState("");
  const [chosen, setChosen] = useState<number | null>(null);
  const found = useQuery(foundStudentsQuery(search));
  return (
    <Page title="Fee holds">
      <div className="mt-3 grid gap-8 md:grid-cols-[300px_1fr]">
        <div>
          <SearchField
            label="Name of a student"
            placeholder="Name of a student"
            onSearch={setSearch}
          />
          {found.isError && <ProblemNotice problem={found.error} />}
          {search.length < 2 && <p className="mt-2 text-soft">Type at least two letters.</p>}
          {search.length >= 2 && found.data?.length === 0 && (
            <p className="mt-2 text-soft">No student is called “{search}”.</p>
          )}
          <ul className="mt-2 border-t border-ink">
            {search.length >= 2 &&
              found.data?.map((student) => (
                <li key={student.id} className="border-b border-hair">
                  <button
                    type="button"
                    className={`w-full px-2 py-1.5 text-left hover:bg-shade ${chosen === student.id ? "bg-shade" : ""}`}
                    aria-pressed={chosen === student.id}
                    onClick={() => setChosen(student.id)}
                  >
                    <span className="font-semibold">{student.full_name}</span>{" "}
                    <span className="text-small text-soft">{student.username}</span>
                  </button>
                </li>
              ))}
          </ul>
        </div>
        {chosen === null ? (
          <p className="text-soft">Choose a student to see and place fee holds.</p>
        ) : (
          <FeeHolds key={chosen} student={chosen} session={session} />
        )}
      </div>
    </Page>
  );
}
