import { X } from "lucide-react";
import { useId, useState } from "react";
import { Button } from "../../../ui/Button";
import { FILE_KINDS, fileTrouble, sizeWords } from "./words";

type Props = { files: File[]; most: number; onChange: (files: File[]) => void };

/** Files to be attached: chosen, looked at here already, and taken out again. */
export function FilesField({ files, most, onChange }: Props) {
  const id = useId();
  const [trouble, setTrouble] = useState("");
  return (
    <div className="text-[13px]">
      <label htmlFor={id} className="link inline-block cursor-pointer py-1">
        Attach a PDF or a picture
      </label>
      <span className="text-soft"> up to 2 MB each</span>
      <input
        id={id}
        type="file"
        accept={FILE_KINDS}
        className="sr-only"
        multiple
        onChange={({ target }) => {
          const chosen = [...(target.files ?? [])];
          const bad = chosen.map(fileTrouble).find(Boolean);
          const all = [...files, ...chosen.filter((file) => !fileTrouble(file))];
          setTrouble(bad ?? (all.length > most ? `At most ${most} files.` : ""));
          onChange(all.slice(0, most));
          target.value = "";
        }}
      />
      {files.length > 0 && (
        <ul>
          {files.map((file, index) => (
            <li key={`${file.name} ${file.size}`} className="flex items-center gap-2">
              <span className="min-w-0 truncate">{file.name}</span>
              <span className="whitespace-nowrap text-soft">{sizeWords(file.size)}</span>
              <Button
                look="quiet"
                className="min-h-[24px]"
                aria-label={`Do not attach ${file.name}`}
                onClick={() => onChange(files.filter((_, other) => other !== index))}
              >
                <X size={13} aria-hidden />
              </Button>
            </li>
          ))}
        </ul>
      )}
      <p className="text-madder" role="status">
        {trouble}
      </p>
    </div>
  );
}
