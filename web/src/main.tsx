import "./app/theme.css";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";
import { Speaking } from "./words/Speaking";
import { watchFaults } from "./app/faults";

watchFaults();

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <Speaking>
      <App />
    </Speaking>,
  );
