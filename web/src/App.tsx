import { Route, Routes } from "react-router";
import { NO_ANSWER } from "./api/client";
import { useConnection } from "./api/connection";
import { useNews } from "./api/useNews";
import { Bench } from "./bench/Bench";
import { Choose } from "./choose/Choose";
import { KeepingPage } from "./keeping/KeepingPage";
import { Shelf } from "./shelf/Shelf";

export function App() {
  useNews();
  const { connected } = useConnection();
  return (
    <>
      {!connected && (
        <div className="notice-strip position-fixed bottom-0 start-0 end-0" style={{ zIndex: 1090 }} role="alert">
          <i className="bi bi-plug" aria-hidden="true" />
          {NO_ANSWER}
        </div>
      )}
      <Routes>
        <Route path="/" element={<Shelf />} />
        <Route path="/piece/:pieceId" element={<Bench />} />
        <Route path="/piece/:pieceId/choose" element={<Choose />} />
        <Route path="/keeping" element={<KeepingPage />} />
        <Route path="*" element={<Shelf />} />
      </Routes>
    </>
  );
}
