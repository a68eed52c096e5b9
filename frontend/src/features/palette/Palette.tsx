import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useDeferredValue, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { searchQuery } from "../../api/queries";
import { NUMBER_FIELD, WORDS_FIELD } from "../../ui/fields";
import { focusSoon } from "../../ui/focus";
import { Overlay } from "../../ui/Overlay";
import { useLateEnter } from "../../ui/useLateEnter";
import { useSearch } from "../../ui/useSearch";
import { useSignOut } from "../access/session/SignOut";
import { useMine } from "../catalogue/section/useMine";
import { SECTION } from "../catalogue/section/useSectionLink";
import { useStars } from "../catalogue/section/useStars";
import { useCartChanges } from "../registration/changes/useCartChanges";
import { screensOf } from "../students/subject/screens";
import { usePageSubject } from "../students/subject/usePageSubject";

type Props = { open: boolean; onClose: () => void; showKeys: () => void };
type Item = { key: string; name: string; hint?: string; run: () => void };

/** One field that reaches every screen, section and action. */
export function Palette({ open, onClose, showKeys }: Props) {
  const acted = useRef(false);
  return (
    <Overlay
      open={open}
      onClose={onClose}
      label="Go to, find or do"
      behind="bg-ink/30"
      look="top-[12dvh] left-1/2 flex max-h-[72dvh] w-[min(560px,calc(100vw-24px))] -translate-x-1/2 flex-col rounded-sm border border-ink bg-surface"
      leavesFocus={() => acted.current}
    >
      <Contents
        onClose={onClose}
        showKeys={showKeys}
        onAct={() => {
          acted.current = true;
        }}
      />
    </Overlay>
  );
}

type ContentsProps = Omit<Props, "open"> & {
  /** Something was chosen: the focus goes where that leads. */
  onAct: () => void;
};

function Contents({ onClose, showKeys, onAct }: ContentsProps) {
  const [typed, setTyped] = useState("");
  const [chosen, setChosen] = useState("");
  const words = useDeferredValue(typed.trim());
  const subject = usePageSubject();
  const mine = useMine();
  const [, changeSearch] = useSearch();
  const found = useQuery({
    ...searchQuery(subject.term, { words: words.slice(0, 200), against: mine.against }, 0),
    enabled: words.length > 1,
  });
  const rows = words.length > 1 ? (found.data?.rows ?? []) : [];
  const sections = rows
    .filter((row): row is Schemas["SectionRow"] => row.kind === "section")
    .slice(0, 8);
  const matches = ({ name }: Item) => name.toLowerCase().includes(words.toLowerCase());
  const actions = useActions(showKeys);
  const after = (run: () => void) => () => {
    onAct();
    onClose();
    run();
  };
  const show = (number: string) => changeSearch((params) => params.set(SECTION, number));
  const groups: [string, Item[]][] = [
    ["Go to", actions.screens.filter(matches)],
    ["Do", actions.actions.filter(matches)],
    [
      "Sections",
      sections.map((row) => ({
        key: row.number,
        name: `${row.number} ${row.name} ${row.title}`,
        hint: row.meetings.map(({ pattern }) => pattern).join(", ") || "no set times",
        run: () => show(row.number),
      })),
    ],
  ];
  const items = groups.flatMap(([, own]) => own);
  const keys = items.map(({ key }) => key);
  const isFound = words.length < 2 || (!found.isPlaceholderData && !found.isPending);
  const isCurrent = words === typed.trim() && (isFound || items.length > sections.length);
  const enter = useLateEnter(words, isCurrent, () => items[0] && after(items[0].run)());
  return (
    <Command
      shouldFilter={false}
      value={keys.includes(chosen) ? chosen : (keys[0] ?? "")}
      onValueChange={setChosen}
      label="Go to, find or do"
      className="flex min-h-0 flex-col"
      onKeyDownCapture={enter.onKeyDownCapture}
    >
      <Command.Input
        className="border-b border-ink bg-transparent px-4 py-3 text-[16px] outline-none placeholder:text-soft"
        placeholder="A screen, a section, something to do"
        value={typed}
        onValueChange={(text) => {
          setTyped(text);
          enter.forget();
        }}
        maxLength={200}
      />
      <Command.List className="min-h-0 overflow-y-auto p-2">
        <Command.Empty className="px-2 py-3 text-soft">Nothing by that name.</Command.Empty>
        {groups.map(([heading, items]) =>
          items.length ? (
            <Command.Group
              key={heading}
              heading={heading}
              className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-small [&_[cmdk-group-heading]]:text-soft"
            >
              {items.map(({ key, name, hint, run }) => (
                <Command.Item
                  key={key}
                  value={key}
                  className="flex min-h-[32px] cursor-pointer items-center gap-3 rounded-sm px-2 data-[selected=true]:bg-shade"
                  onSelect={after(run)}
                >
                  <span className="min-w-0 flex-1 truncate">{name}</span>
                  {hint && <span className="shrink-0 text-small text-soft">{hint}</span>}
                </Command.Item>
              ))}
            </Command.Group>
          ) : null,
        )}
      </Command.List>
    </Command>
  );
}

function useActions(showKeys: () => void): { screens: Item[]; actions: Item[] } {
  const subject = usePageSubject();
  const { cart } = useMine();
  const navigate = useNavigate();
  const { mode, remove } = useCartChanges(subject);
  const { stars } = useStars();
  const signOut = useSignOut();
  const to = (path: string) => () => navigate(`${subject.base}/${path}`);
  const screens = [
    ...screensOf(subject).map(({ path, name }) => ({ key: path, name, run: to(path) })),
    { key: "plan", name: "Plan agreed with the advisor", run: to("plan") },
    { key: "print", name: "Print the week", run: to("schedule/print") },
  ];
  const ids = cart?.changes.map(({ id }) => id) ?? [];
  const actions: Item[] = [
    {
      key: "number",
      name: "Enter reference numbers",
      hint: "n",
      run: () => {
        if (document.getElementById(NUMBER_FIELD)?.offsetParent == null) to("cart")();
        focusSoon(NUMBER_FIELD);
      },
    },
    {
      key: "words",
      name: "Find sections by words",
      hint: "/",
      run: () => {
        to("find")();
        focusSoon(WORDS_FIELD);
      },
    },
    { key: "fits", name: "Show what fits my week", run: to("find?fits=true") },
    { key: "open", name: "Show sections with a seat left", run: to("find?seats=open") },
    ...(stars.length
      ? [{ key: "stars", name: "Show what I have starred", run: to("find?list=starred") }]
      : []),
    { key: "keep", name: "Keep or show this week", run: to("schedule?keep=") },
    ...(cart && ids.length
      ? [
          cart.mode === "each"
            ? { key: "all", name: "All or nothing", run: () => mode.mutate("all") }
            : { key: "each", name: "Each change by itself", run: () => mode.mutate("each") },
          { key: "empty", name: "Take everything out of the cart", run: () => remove.mutate(ids) },
        ]
      : []),
    { key: "keys", name: "Show the keys", hint: "?", run: showKeys },
    { key: "sign-out", name: "Sign out", run: () => signOut.mutate() },
  ];
  return { screens, actions };
}
