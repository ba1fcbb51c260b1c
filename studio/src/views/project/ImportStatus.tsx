import { Popover } from "radix-ui";
import { ArrivalRow } from "../../library/ArrivalRow";
import { useArrivals } from "../../session/context";

/** How many files are on their way in, whichever view is shown; and how far each is. */
export function ImportStatus() {
  const { arrivals, list } = useArrivals();
  if (list.length === 0) return null;
  const failed = list.filter(({ stage }) => stage === "failed").length;
  const coming = list.length - failed;
  const files = (count: number) => `${count} ${count === 1 ? "file" : "files"}`;
  return (
    <Popover.Root>
      <Popover.Trigger
        className={`mr-3 whitespace-nowrap text-sm underline ${failed > 0 ? "text-alarm" : "text-mist"}`}
      >
        {coming > 0 ? `${files(coming)} coming in` : `${files(failed)} not brought in`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          className="floating z-30 max-h-80 w-[36rem] overflow-auto p-2"
        >
          {list.map((arrival) => (
            <ArrivalRow key={arrival.id} arrival={arrival} onDismiss={() => arrivals.dismiss(arrival)} />
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
