// What is wrong with the mesh, or worth knowing of it: what it means and what to do.
import type { Finding } from "../../api/types";

export function Findings({ findings }: { findings: Finding[] }) {
  const sorted = [...findings].sort((a, b) => Number(b.serious) - Number(a.serious));
  return (
    <section className="group">
      <div className="panel-head">
        <span>What was found in it</span>
      </div>
      {sorted.length === 0 && <p className="hint">Nothing wrong: closed, evenly wound, with UVs inside their tiles.</p>}
      {sorted.map((f) => (
        <div key={f.what} className={f.serious ? "finding serious" : "finding"}>
          <b>{f.what}</b>
          <small>{f.remedy}</small>
        </div>
      ))}
    </section>
  );
}
