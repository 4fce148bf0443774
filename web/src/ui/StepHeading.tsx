import type { ReactNode } from "react";

export function StepHeading({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="step-heading">
      <h2 tabIndex={-1}>{title}</h2>
      <p>{children}</p>
    </div>
  );
}

interface CardProps {
  title: ReactNode;
  aside?: ReactNode;
  selected?: boolean;
  onFocus?: () => void;
  children: ReactNode;
}

/** One part being edited. */
export function Card({ title, aside, selected, onFocus, children }: CardProps) {
  return (
    <article className={selected ? "card on" : "card"} onFocusCapture={onFocus}>
      <header>
        <h3>{title}</h3>
        {aside}
      </header>
      {children}
    </article>
  );
}

/** Figures the solver found, beside the fields that led to them. */
export function Readout({ rows }: { rows: readonly (readonly [string, ReactNode])[] }) {
  return (
    <dl className="readout">
      {rows.map(([label, figure]) => (
        <div key={label}>
          <dt>{label}</dt>
          <dd>{figure}</dd>
        </div>
      ))}
    </dl>
  );
}
