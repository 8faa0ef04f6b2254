import { Toast, ToastContainer } from "react-bootstrap";
import { useNotices } from "./notices";
import { SendingStack } from "./SendingStack";

/** Errors, files under way and things that can be taken back, at the lower left, out of the way of the panel. */
export function NoticeStack() {
  const { list, drop } = useNotices();
  return (
    <ToastContainer position="bottom-start" className="p-3 position-fixed" style={{ zIndex: 1090 }}>
      <SendingStack />
      {list.map((notice) => (
        <Toast
          key={notice.id}
          onClose={() => drop(notice.id)}
          autohide
          delay={notice.tone === "error" ? 15000 : 9000}
          role={notice.tone === "error" ? "alert" : "status"}
          className={notice.tone === "error" ? "border-danger" : ""}
        >
          <Toast.Body className="d-flex align-items-start gap-3">
            <div className="me-auto">
              <b className={notice.tone === "error" ? "state-wrong" : ""}>{notice.title}</b>
              {notice.text && <div>{notice.text}</div>}
            </div>
            {notice.action && (
              <button
                type="button"
                className="btn btn-sm btn-plain text-nowrap"
                onClick={() => {
                  notice.action?.run();
                  drop(notice.id);
                }}
              >
                {notice.action.label}
              </button>
            )}
            <button type="button" className="btn-close" aria-label="Close" onClick={() => drop(notice.id)} />
          </Toast.Body>
        </Toast>
      ))}
    </ToastContainer>
  );
}
