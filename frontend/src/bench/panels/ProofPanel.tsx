import { EmptyState } from "../../shared/EmptyState";

export function ProofPanel() {
  return (
    <EmptyState title="Proof is not built yet">
      <p>
        It will check, before material is spent, that every wall gets whole nozzle lines, how light
        comes through, how long it takes and how heavy it becomes.
      </p>
      <p>Until then the Finish stop says whether the mesh is closed.</p>
    </EmptyState>
  );
}
