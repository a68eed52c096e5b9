import { pressable } from "./pressable";

type Props = {
  id: string;
  /** Endings and media types, as a browser lists them. */
  accept: string;
  /** While what was chosen before is still being read. */
  isBusy: boolean;
  onFile: (file: File) => void;
};

/** Choose one file; the same one, mended, can be chosen again. */
export function FileInput({ id, accept, isBusy, onFile }: Props) {
  return (
    <input
      id={id}
      className="block w-full text-[13px] file:mr-3 file:cursor-pointer file:rounded-sm file:border file:border-solid file:border-pine file:bg-transparent file:px-3 file:py-1 file:font-semibold file:text-pine"
      type="file"
      accept={accept}
      {...pressable(isBusy)}
      onChange={({ target }) => {
        const [chosen] = target.files ?? [];
        if (chosen) onFile(chosen);
        target.value = "";
      }}
    />
  );
}
