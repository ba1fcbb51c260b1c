import { Plus, Power, Radio, X } from "lucide-react";
import { useEffect, useState } from "react";
import { useSession } from "../../../session/context";
import { Button, IconButton } from "../../../ui/Button";
import { Choice } from "../../../ui/fields/Choice";
import { chooseMidi, lookAtFeed, midiOutputs, midiSent, startFeed, stopFeed, useFeed } from "./liveFeed";
import { FIRST_CONTROLLER, FIRST_NOTE } from "./midiOut";

/** How often the list of receivers is brought up to date, ms. */
const LOOK_MS = 1000;

/** The live feed: on or off, where it goes, and how that fares. */
export function FeedWay() {
  const session = useSession();
  const { state, osc, failure, projectId } = useFeed();
  const isOn = state?.on === true && projectId === session.projectId;
  useEffect(() => {
    if (!isOn) return;
    const timer = setInterval(() => void lookAtFeed(session), LOOK_MS);
    return () => clearInterval(timer);
  }, [isOn, session]);
  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap items-center gap-3">
        {isOn ? (
          <Button onClick={() => void stopFeed(session)}>
            <Power size={16} aria-hidden /> Switch the feed off
          </Button>
        ) : (
          <Button onClick={() => void startFeed(session, osc)}>
            <Radio size={16} aria-hidden /> Switch the feed on
          </Button>
        )}
        {isOn && (
          <p role="status" className="text-sm text-mist">
            {state.playing ? "Feeding." : "Waiting: it feeds while the tape plays."}
          </p>
        )}
      </div>
      {failure && (
        <p role="alert" className="text-sm text-alarm">
          {failure}
        </p>
      )}
      <OscTargets />
      {isOn && (
        <>
          <p className="text-sm text-mist">
            Programs and pages connect to <code className="select-all">{state.address}/events</code> or{" "}
            <code className="select-all">{state.address?.replace("http", "ws")}/socket</code>
            {", or with "}
            <code className="whitespace-nowrap">?format=binary</code>.
          </p>
          <MidiChoice />
          <Receivers />
        </>
      )}
    </div>
  );
}

/** Addresses that OSC goes to. */
function OscTargets() {
  const session = useSession();
  const { osc, state } = useFeed();
  const [written, setWritten] = useState("");
  const change = (next: string[]) => {
    useFeed.setState({ osc: next });
    if (state?.on) void startFeed(session, next);
  };
  return (
    <form
      className="flex flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        const address = written.trim();
        if (address && !osc.includes(address)) change([...osc, address]);
        setWritten("");
      }}
    >
      <span className="text-mist">OSC to</span>
      {osc.map((address) => (
        <span key={address} className="figures flex items-center gap-1 rounded-full border border-rule px-2">
          {address}
          <IconButton
            small
            label={`Send nothing to ${address}`}
            onClick={() => change(osc.filter((one) => one !== address))}
          >
            <X size={13} aria-hidden />
          </IconButton>
        </span>
      ))}
      <input
        aria-label="Another address for OSC"
        className="w-40 rounded border border-rule bg-sunk px-2 py-0.5"
        placeholder="127.0.0.1:9001"
        value={written}
        onChange={({ target }) => setWritten(target.value)}
      />
      <Button type="submit" disabled={written.trim() === ""}>
        <Plus size={14} aria-hidden /> Add
      </Button>
    </form>
  );
}

function MidiChoice() {
  const { midiName } = useFeed();
  const [outputs, setOutputs] = useState<{ id: string; name: string }[]>();
  const [failure, setFailure] = useState<string>();
  const [chosen, setChosen] = useState("");
  if (!outputs) {
    return (
      <div className="flex items-center gap-3 text-sm">
        <Button
          onClick={() => void midiOutputs().then(setOutputs, (error: Error) => setFailure(error.message))}
        >
          Send to a MIDI device
        </Button>
        {failure && <span className="text-alarm">{failure}</span>}
      </div>
    );
  }
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span className="text-mist">MIDI to</span>
      <Choice
        label="MIDI device"
        value={chosen}
        choices={[["", "none"], ...outputs.map(({ id, name }) => [id, name] as const)]}
        onChange={(id) => {
          setChosen(id);
          void chooseMidi(id || undefined);
        }}
      />
      <span className="text-mist">
        {midiName
          ? `Strands are controllers from ${FIRST_CONTROLLER} on, their cues notes from ${FIRST_NOTE} on, on channel 1. ${midiSent()} messages.`
          : outputs.length === 0
            ? "No MIDI device is connected."
            : ""}
      </span>
    </div>
  );
}

/** Receivers of the feed, their rates, and the last message. */
function Receivers() {
  const receivers = useFeed(({ state }) => state?.receivers) ?? [];
  if (receivers.length === 0) return <p className="text-sm text-mist">Nobody is fed yet.</p>;
  return (
    <table className="w-full table-fixed text-left text-sm">
      <thead className="text-mist">
        <tr>
          <th className="w-52 font-normal">Receiver</th>
          <th className="w-24 font-normal">A second</th>
          <th className="w-24 font-normal">Sent</th>
          <th className="w-20 font-normal">Lost</th>
          <th className="font-normal">Last</th>
        </tr>
      </thead>
      <tbody className="figures">
        {receivers.map(({ name, rate, sent, dropped, last }) => (
          <tr key={name} className="border-t border-rule">
            <td className="truncate">{name}</td>
            <td>{Math.round(rate)}</td>
            <td>{sent}</td>
            <td className={dropped > 0 ? "text-alarm" : ""}>{dropped}</td>
            <td className="truncate" title={last}>
              {last}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
