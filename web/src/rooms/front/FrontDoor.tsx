// The front door: projects as pictures of their pieces; start from a demo piece or from a file dropped anywhere.
import { ActionIcon, Button, Tooltip } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { IconTrash } from "@tabler/icons-react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation } from "wouter";

import { BringFiles } from "../../controls/BringFiles";
import { bundle, MESH, MESH_FILES, named } from "../../api/bundle";
import { api } from "../../api/client";
import { when } from "../../state/when";
import type { ProjectCard, ProjectView } from "../../api/types";
import { AskUnit } from "../../controls/AskUnit";
import { Arriving } from "./Arriving";
import { useDropped } from "../../controls/useDropped";
import { say } from "../../state/actions";

export function FrontDoor() {
  const projects = useQuery({ queryKey: ["projects"], queryFn: api.projects, refetchOnMount: "always" });
  const demos = useQuery({ queryKey: ["demos"], queryFn: api.demoPieces });
  const [, go] = useLocation();
  const [file, setFile] = useState<File | null>(null);
  const [busy, setBusy] = useState(false);
  const [arrival, setArrival] = useState<{ name: string; ticket: string } | null>(null);
  const settled = projects.isSuccess && demos.isSuccess && !busy;
  useEffect(() => {
    document.body.dataset["settled"] = settled ? "yes" : "no";
  }, [settled]);
  const start = async (work: Promise<ProjectView>) => {
    setBusy(true);
    try {
      const project = await work;
      go(`/p/${project.id}/surface${location.search}`);
    } catch (error) {
      say(error);
    } finally {
      setBusy(false);
      setArrival(null);
    }
  };
  const bringIn = (picked: File, unit: string | null) => {
    const ticket = `${Date.now()}-${Math.random().toString(36).slice(2)}`;
    setArrival({ name: picked.name, ticket });
    void start(api.startOnFile(picked, unit, ticket));
  };
  const take = (picked: File | null) => {
    if (!picked) return;
    if (MESH.test(picked.name)) setFile(picked);
    else bringIn(picked, null);
  };
  const takeAll = (files: Parameters<typeof bundle>[0]) => void bundle(files).then(take, say);
  const { over, takes } = useDropped(takeAll);
  return (
    <div className={over ? "front over" : "front"} {...takes}>
      <header className="front-head">
        <img src="/mark.svg" alt="" />
        <h1>Dust Coat</h1>
        <span className="soft">coats of paint, rust, dirt and wear, laid by masks over a piece</span>
      </header>
      <main className="front-body">
        {projects.isError && <p className="warn">{projects.error.message}</p>}
        {projects.data && projects.data.length > 0 && (
          <section>
            <h2>Projects</h2>
            <div className="cards">
              {projects.data.map((p) => (
                <Card key={p.id} project={p} />
              ))}
            </div>
          </section>
        )}
        <section>
          <h2>Start a new one</h2>
          <div className="starts">
            <BringFiles
              multiple
              label="Model file"
              accept={`${MESH_FILES},.dustcoat`}
              take={(files) => takeAll(named(files))}
            >
              {(props) => (
                <button className="start file" disabled={busy} {...props}>
                  <b>From a model of your own</b>
                  <span className="soft">
                    Drop a GLB, glTF, OBJ, PLY, STL or USD anywhere on this page, alone or with its folder or ZIP, or
                    pick files here. A .dustcoat project works too.
                  </span>
                </button>
              )}
            </BringFiles>
            {demos.data?.map((d) => (
              <button key={d.key} className="start" disabled={busy} onClick={() => void start(api.startOnDemo(d.key))}>
                <b>{d.name}</b>
                <span className="soft">{d.note}</span>
              </button>
            ))}
          </div>
        </section>
      </main>
      {arrival && <Arriving {...arrival} />}
      {file && (
        <AskUnit
          file={file}
          verb="Bring it in"
          close={() => setFile(null)}
          start={(unit) => {
            setFile(null);
            bringIn(file, unit);
          }}
        />
      )}
    </div>
  );
}

function Card({ project }: { project: ProjectCard }) {
  const queries = useQueryClient();
  const put = (cards: ProjectCard[]) => queries.setQueryData(["projects"], cards);
  const remove = async () => {
    try {
      put(await api.remove(project.id));
      const id = notifications.show({
        message: (
          <span>
            {project.name} was put away.{" "}
            <Button
              variant="subtle"
              onClick={() => {
                notifications.hide(id);
                api.restore(project.id).then(put, say);
              }}
            >
              Bring it back
            </Button>
          </span>
        ),
        autoClose: 12000,
      });
    } catch (error) {
      say(error);
    }
  };
  return (
    <div className="card" data-project={project.name}>
      <Link href={`/p/${project.id}/build${location.search}`} style={{ color: "inherit", textDecoration: "none" }}>
        <img
          className="card-picture"
          src={`/api/projects/${project.id}/picture?v=${project.revision}`}
          alt={`${project.name} as it stands`}
        />
        <div className="card-foot">
          <b>{project.name}</b>
          <span className="soft">{when(new Date(project.changed))}</span>
        </div>
      </Link>
      <Tooltip label="Put away">
        <ActionIcon
          className="card-remove"
          variant="default"
          aria-label={`Put ${project.name} away`}
          onClick={() => void remove()}
        >
          <IconTrash size={14} />
        </ActionIcon>
      </Tooltip>
    </div>
  );
}
