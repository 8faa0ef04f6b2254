import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Form } from "react-bootstrap";
import { api, detailOf, type Service, take } from "../api/client";
import { Button } from "../shared/Button";
import { sentence } from "../shared/notices";
import { askAnew } from "../shared/askAnew";

/** A service, its key, and what is left of its credits. */
export function ServiceCard({ service }: { service: Service }) {
  const id = useId();
  const queries = useQueryClient();
  const [key, setKey] = useState("");
  const path = { params: { path: { service: service.id } } };
  const account = useQuery({
    queryKey: ["account", service.id],
    queryFn: () => take(api.GET("/api/makers/{service}/account", path)),
    enabled: service.keyed,
    retry: false,
  });
  const change = useMutation({
    mutationFn: (what: () => Promise<unknown>) => what(),
    onSuccess: () => {
      setKey("");
      void askAnew(queries, "makers", "account");
    },
  });
  const refused = change.error ?? account.error;
  const credits = account.data?.credits;
  let figure = "no key yet";
  if (service.keyed) figure = credits == null ? "a key is kept" : `${credits} credits left`;
  return (
    <article className="thing" aria-label={service.name}>
      <div className="thing-text">
        <strong>{service.name}</strong>
        <span className="mono quiet">{figure}</span>
      </div>
      {service.practice && (
        <p className="quiet m-0">
          It runs on this machine and makes what Nebrel would make, with a queue, and a failure now and then. A model takes 5 credits.
        </p>
      )}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate(() => take(api.PUT("/api/makers/{service}/key", { ...path, body: { key } })));
        }}
      >
        <label htmlFor={id}>{service.keyed ? "Another key" : "Key"}</label>
        <div className="d-flex gap-2">
          <Form.Control id={id} size="sm" className="mono" type="password" autoComplete="off" value={key} onChange={(event) => setKey(event.target.value)} />
          <Button size="sm" variant="plain" type="submit" disabled={!key.trim() || change.isPending}>
            Keep
          </Button>
        </div>
        <div className="field-help quiet">Kept in your data folder, readable by you alone.</div>
      </form>
      {refused && (
        <div className="field-error" role="alert">
          {sentence(detailOf(refused).why)}. {detailOf(refused).remedy}.
        </div>
      )}
      <div className="d-flex gap-2">
        {service.practice && (
          <Button
            size="sm"
            variant={service.keyed ? "plain" : "primary"}
            disabled={change.isPending}
            onClick={() => change.mutate(() => take(api.POST("/api/makers/practice/key")))}
          >
            {service.keyed ? "A fresh practice key" : "Get a practice key"}
          </Button>
        )}
        {service.keyed && (
          <Button size="sm" variant="plain" onClick={() => change.mutate(() => take(api.DELETE("/api/makers/{service}/key", path)))}>
            Forget the key
          </Button>
        )}
      </div>
    </article>
  );
}
