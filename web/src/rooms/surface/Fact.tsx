// One thing that is known, in words.
import { Tooltip } from "@mantine/core";

export function Fact({ name, value, help }: { name: string; value: string; help?: string }) {
  const line = (
    <div className="row fact">
      <span className="soft">{name}</span>
      <span>{value}</span>
    </div>
  );
  return help === undefined ? (
    line
  ) : (
    <Tooltip label={help} multiline maw={260} position="right">
      {line}
    </Tooltip>
  );
}
