import { shortMoment } from "../../../ui/text";
import { eventWords, type Request, sizeWords } from "./words";

/** What has happened to a request, with the words that were said. */
export function Happened({ request, zone }: { request: Request; zone: string }) {
  return (
    <ol className="mt-1.5 space-y-1 border-l border-hair pl-3 text-[13px]">
      {request.events.map((event) => (
        <li key={event.what + event.at}>
          <span className="number text-soft">{shortMoment(new Date(event.at), zone)}</span>{" "}
          {eventWords(event)}
          {event.words && (
            <>
              : <q className="break-words whitespace-pre-wrap">{event.words}</q>
            </>
          )}
        </li>
      ))}
    </ol>
  );
}

/** The files of a request; each is kept, not shown. */
export function Files({ request }: { request: Request }) {
  if (request.files.length === 0) return null;
  return (
    <ul className="mt-1 text-[13px]">
      {request.files.map(({ id, name, size }) => (
        <li key={id} className="flex min-w-0 items-baseline gap-2">
          <a
            className="link min-w-0 break-words"
            href={`/api/requests/${request.id}/files/${id}`}
            download={name}
          >
            {name}
          </a>
          <span className="whitespace-nowrap text-soft">{sizeWords(size)}</span>
        </li>
      ))}
    </ul>
  );
}
