import { Slider } from "radix-ui";

type Props = { most: number; index: number; said: string; onChange: (index: number) => void };

/** The bar that is drawn along to walk the weeks. */
export function SliderBar({ most, index, said, onChange }: Props) {
  return (
    <Slider.Root
      className="absolute inset-x-0 bottom-0 flex h-4 touch-none items-center"
      min={0}
      max={most}
      value={[index]}
      onValueChange={([next]) => onChange(next ?? 0)}
    >
      <Slider.Track className="relative h-px flex-1 bg-ink">
        <Slider.Range className="absolute h-px bg-pine" />
      </Slider.Track>
      <Slider.Thumb
        className="block size-3.5 rounded-full bg-pine hover:bg-pine-deep"
        aria-label="Week"
        aria-valuetext={said}
      />
    </Slider.Root>
  );
}
