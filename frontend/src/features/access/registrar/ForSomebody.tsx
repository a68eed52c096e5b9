import { type FormEvent, type ReactNode, useId, useState } from "react";
import { Button } from "../../../ui/Button";
import { UserNameField } from "../../../ui/UserNameField";

type Props = {
  title: string;
  about: string;
  label: string;
  button: string;
  isPending: boolean;
  onSubmit: (username: string) => void;
  children: ReactNode;
};

/** Something that is done for one person, student or not, by the user name; below it what came of it. */
export function ForSomebody(props: Props) {
  const id = useId();
  const [username, setUsername] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    props.onSubmit(username.trim());
  };
  return (
    <section className="mt-10 border-t border-hair pt-3" aria-labelledby={id}>
      <h2 id={id} className="text-[18px]">
        {props.title}
      </h2>
      <p className="mt-1 max-w-[62ch] text-[13px] text-soft">{props.about}</p>
      <form className="mt-2 flex flex-wrap items-end gap-3" onSubmit={submit}>
        <UserNameField label={props.label} required value={username} onChange={setUsername} />
        <Button type="submit" disabled={props.isPending || !username.trim()}>
          {props.button}
        </Button>
      </form>
      {props.children}
    </section>
  );
}
