// Routes: the front door at /, a project's rooms at /p/<id>/<room>.
import { Route, Switch } from "wouter";

import { FrontDoor } from "./rooms/front/FrontDoor";
import { useLeaving } from "./shell/leaving";
import { Workshop } from "./shell/Workshop";

export function App() {
  useLeaving();
  return (
    <Switch>
      <Route path="/p/:id/:room?">
        {(params) => <Workshop id={Number(params.id)} room={params.room ?? "build"} />}
      </Route>
      <Route>
        <FrontDoor />
      </Route>
    </Switch>
  );
}
