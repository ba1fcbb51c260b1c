import { useNumbers } from "../../../session/context";
import { useStrands } from "../../../session/strandHooks";
import { LiveText } from "../../../ui/live/LiveText";
import { StrandMark } from "../../../ui/StrandMark";
import { rawText } from "../strandText";

/** Every strand's numbers as text, for those who want the plain value. */
export function NumbersPanel() {
  const numbers = useNumbers();
  const strands = useStrands();
  return (
    <table className="w-full text-sm" aria-label="Numbers now">
      <thead className="text-left text-xs text-mist">
        <tr>
          <th className="font-normal">strand</th>
          <th className="text-right font-normal">raw</th>
          <th className="text-right font-normal">shaped</th>
        </tr>
      </thead>
      <tbody>
        {strands.map((strand) => (
          <tr key={strand.id}>
            <td>
              <span className="flex items-center gap-1.5">
                <StrandMark strand={strand} size={11} />
                <span className="max-w-32 truncate">{strand.name}</span>
              </span>
            </td>
            <td className="text-right">
              <LiveText text={(timeS) => rawText(numbers, strand, timeS)} />
            </td>
            <td className="text-right text-brass">
              <LiveText text={(timeS) => numbers.shapedNow(strand.id, timeS).toFixed(3)} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
