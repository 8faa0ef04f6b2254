import { useEffect, useState } from "react";
import { Toast } from "react-bootstrap";
import { type Sending, useSendings } from "../api/sending";
import { Progress } from "./Progress";
import { useLate } from "./useLate";

/** Files on their way and being read, each with its way back. */
export function SendingStack() {
  const list = useSendings(({ list }) => list);
  return list.map((one) => <SendingNotice key={one.id} {...one} />);
}

function SendingNotice({ name, sent, callOff }: Sending) {
  const there = sent >= 1;
  const seconds = useSeconds();
  if (!useLate(true)) return null;
  const told = there ? `Reading “${name}”` : `Sending “${name}”`;
  return (
    <Toast role="status" aria-label={told}>
      <Toast.Body className="d-flex align-items-center gap-3">
        <div className="me-auto flex-grow-1">
          <b>{told}</b>
          <Progress className="my-1" label={told} now={there ? undefined : sent * 100} />
          <div className="quiet" aria-hidden="true">
            {there ? `${seconds} s` : `${Math.round(sent * 100)} %`}
          </div>
        </div>
        <button type="button" className="btn btn-sm btn-plain text-nowrap" aria-label={`Call off ${name}`} onClick={callOff}>
          Call off
        </button>
      </Toast.Body>
    </Toast>
  );
}

/** Whole seconds since it is shown. */
function useSeconds(): number {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setSeconds((now) => now + 1), 1000);
    return () => clearInterval(timer);
  }, []);
  return seconds;
}
