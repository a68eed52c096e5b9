import { useCallback } from "react";
import { useSearchParams } from "react-router";

type Edit = (params: URLSearchParams) => void;

/**
 * What stands behind the `?` of the address, and a way to change it. A change starts from what stands
 * there now: two at once, or one pressed before the page has followed the last, both count.
 */
export function useSearch(): [
  URLSearchParams,
  (edit: Edit, options?: { replace: boolean }) => void,
] {
  const [params, setParams] = useSearchParams();
  const change = useCallback(
    (edit: Edit, options?: { replace: boolean }) => {
      const now = new URLSearchParams(window.location.search);
      edit(now);
      setParams(now, options);
    },
    [setParams],
  );
  return [params, change];
}
