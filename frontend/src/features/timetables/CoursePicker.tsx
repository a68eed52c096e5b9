import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import type { Schemas } from "../../api/client";
import { searchQuery } from "../../api/queries";
import { Dropdown } from "../../ui/Dropdown";
import { useLateEnter } from "../../ui/useLateEnter";
import { usePageSubject } from "../students/subject/usePageSubject";
import type { Question, Want } from "./question";
import { wantOf } from "./question";
import type { Asking } from "./useQuestion";

type Props = {
  face: string;
  look?: "plain" | "link";
  asking: Asking;
  /** Puts what is picked into the question; usually as one more want. */
  onPick?: (question: Question, want: Want) => Question;
  /** Also kinds of courses may be picked, such as those that count toward Craft. */
  withTags?: boolean;
};

const LOOKS = {
  plain:
    "rounded-sm border border-pine px-3 py-1 font-semibold text-pine hover:bg-pine hover:text-white",
  link: "link min-h-[26px] text-left font-semibold",
};

const asOneMore = (question: Question, want: Want): Question => ({
  ...question,
  wants: [...question.wants, want],
});

/** Picks a course by its name, its number or words of its title. */
export function CoursePicker({
  face,
  look = "link",
  asking,
  onPick = asOneMore,
  withTags = true,
}: Props) {
  return (
    <Dropdown
      face={face}
      className={LOOKS[look]}
      title={face}
      align="start"
      opensField
      look="w-[min(340px,calc(100vw-24px))]"
    >
      <Picking withTags={withTags} onPick={(want) => asking.ask((q) => onPick(q, want))} />
    </Dropdown>
  );
}

type PickingProps = { withTags: boolean; onPick: (want: Want) => void };

function Picking({ withTags, onPick }: PickingProps) {
  const { term } = usePageSubject();
  const [typed, setTyped] = useState("");
  const [said, setSaid] = useState("");
  const words = useDeferredValue(typed.trim());
  const found = useQuery(searchQuery(term, { words: words.slice(0, 200) }, 0));
  const all = useQuery(searchQuery(term, {}, 0));
  const courses = (found.data?.rows ?? [])
    .filter((row): row is Schemas["CourseRow"] => row.kind === "course")
    .slice(0, 8);
  const tags = (all.data?.counts.find(({ filter }) => filter === "counts")?.values ?? []).filter(
    ({ name }) => words === "" || name.toLowerCase().includes(words.toLowerCase()),
  );
  const pick = (want: Want, name: string) => {
    onPick(want);
    setTyped("");
    enter.forget();
    setSaid(`${name} is wanted.`);
  };
  const isCurrent = words === typed.trim() && !found.isPlaceholderData && !found.isPending;
  const enter = useLateEnter(words, isCurrent, () => {
    // With nothing typed the first of all courses is meant only by whoever goes to it.
    if (words === "") return;
    const [first] = courses;
    const [tag] = withTags ? tags : [];
    if (first) pick(wantOf(first.key), first.key);
    else if (tag) pick({ ...wantOf(), tag: tag.value }, `One that counts toward ${tag.name}`);
  });
  return (
    <Command
      shouldFilter={false}
      label="A course"
      className="flex max-h-[min(420px,70dvh)] flex-col"
      onKeyDownCapture={enter.onKeyDownCapture}
    >
      <Command.Input
        autoFocus
        className="border-b border-ink bg-transparent px-3 py-2.5 outline-none placeholder:text-soft"
        placeholder="SOIL 240, bees, pottery …"
        value={typed}
        onValueChange={(text) => {
          setTyped(text);
          enter.forget();
        }}
        maxLength={200}
      />
      <p role="status" className="px-3 pt-2 text-small text-pine empty:hidden">
        {enter.isWaiting ? `Looking for ${typed.trim()} …` : said}
      </p>
      <Command.List className="min-h-0 overflow-y-auto p-1.5">
        <Command.Empty className="px-2 py-3 text-soft">No course has that.</Command.Empty>
        {courses.map(({ key, title }) => (
          <Command.Item
            key={key}
            value={key}
            className={ITEM}
            onSelect={() => pick(wantOf(key), key)}
          >
            <b className="font-semibold">{key}</b>
            <span className="min-w-0 truncate">{title}</span>
          </Command.Item>
        ))}
        {withTags &&
          tags.slice(0, 8).map(({ value, name }) => (
            <Command.Item
              key={`toward ${value}`}
              value={`toward ${value}`}
              className={ITEM}
              onSelect={() => pick({ ...wantOf(), tag: value }, `One that counts toward ${name}`)}
            >
              <span className="text-soft">One that counts toward</span> {name}
            </Command.Item>
          ))}
      </Command.List>
    </Command>
  );
}

const ITEM =
  "flex min-h-[32px] cursor-pointer items-center gap-2 rounded-sm px-2 data-[selected=true]:bg-shade";
