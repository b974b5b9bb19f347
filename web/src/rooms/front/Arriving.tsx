// A model that is being taken in: what is done, how much of it, and how long it will take.
import { Progress } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import { api } from "../../api/client";
import { remaining } from "../../state/when";

const ASK_EVERY = 250;

export function Arriving({ name, ticket }: { name: string; ticket: string }) {
  const { data } = useQuery({
    queryKey: ["arrival", ticket],
    queryFn: () => api.arrival(ticket),
    refetchInterval: ASK_EVERY,
    retry: false,
  });
  const share = data?.share ?? 0;
  const left = data?.left;
  return (
    <div className="arriving" role="status">
      <div className="row">
        <b className="cut">{name}</b>
        <span className="soft num">
          {data?.label ?? "Sending it"}
          {left !== null && left !== undefined && left >= 1 ? `, ${remaining(left)} left` : ""}
        </span>
      </div>
      <Progress value={share * 100} aria-label="Taken in" />
    </div>
  );
}
