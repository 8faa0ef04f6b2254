import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Spinner } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, orderModel, type Order, take } from "../api/client";
import { ChooseFile } from "../shared/ChooseFile";
import { EmptyState } from "../shared/EmptyState";
import { showError } from "../shared/notices";
import { askOnceMore } from "./askOnceMore";
import { PageHead } from "../shared/PageHead";
import { Button } from "../shared/Button";
import { OrderRow } from "./OrderRow";
import { ServiceCard } from "./ServiceCard";
import { askAnew } from "../shared/askAnew";

const OPEN = new Set<Order["state"]>(["sending", "queued", "working", "fetching"]);
const LOOK_MS = 700;

/** Services elsewhere that make models of pictures, and what was ordered from them. */
export function Makers() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const services = useQuery({ queryKey: ["makers"], queryFn: () => take(api.GET("/api/makers")) });
  const orders = useQuery({
    queryKey: ["orders"],
    queryFn: () => take(api.GET("/api/orders")),
    refetchInterval: (query) => (query.state.data?.some(({ state }) => OPEN.has(state)) ? LOOK_MS : false),
  });
  // What is paid, and paid back, is told by how the orders stand.
  const stand = orders.data?.map(({ id, state, paid }) => `${id} ${state} ${paid}`).join();
  useEffect(() => void askAnew(queries, "account"), [queries, stand]);
  const refresh = () => {
    void askAnew(queries, "orders", "account");
  };
  const send = useMutation({
    mutationFn: orderModel,
    onError: (error, { file }) => askOnceMore(error, () => send.mutate({ file, again: true })),
    onSuccess: refresh,
  });
  const act = useMutation({ mutationFn: (act: () => Promise<unknown>) => act(), onError: showError, onSettled: refresh });
  const begin = useMutation({
    mutationFn: (order: Order) => take(api.POST("/api/orders/{order_id}/piece", { params: { path: { order_id: order.id } } })),
    onError: showError,
    onSuccess: (piece) => {
      void askAnew(queries, "pieces");
      void navigate(`/pieces/${piece.id}`);
    },
  });
  const keyed = services.data?.some((service) => service.keyed) ?? false;
  return (
    <div className="workshop">
      <PageHead title="Model makers" />
      <main className="workshop-body">
        {services.isPending && <Spinner role="status" aria-label="Loading the model makers" />}
        {services.isError && (
          <EmptyState title="The model makers cannot be read">
            <Button variant="plain" onClick={() => void services.refetch()}>
              Try again
            </Button>
          </EmptyState>
        )}
        {services.data && (
          <>
            <section aria-label="Services">
              <div className="workshop-head">
                <h1 className="h2">Model makers</h1>
                <span className="quiet">Elsewhere a picture is made into a model for credits. What comes back is a body on your shelf.</span>
              </div>
              <div className="things">
                {services.data.map((service) => (
                  <ServiceCard key={service.id} service={service} />
                ))}
              </div>
            </section>
            <section aria-label="Orders">
              <div className="workshop-head">
                <h2>Orders</h2>
                <span className="quiet">They go on when Nebrel was closed, and none is paid twice.</span>
                <ChooseFile
                  size="sm"
                  variant="plain"
                  label="Picture to order a model of"
                  accept="image/*"
                  disabled={!keyed || send.isPending}
                  onFile={(file) => send.mutate({ file })}
                >
                  Order a model of a picture
                </ChooseFile>
              </div>
              {orders.data?.length === 0 && (
                <EmptyState title="Nothing was ordered yet">
                  <p>
                    {keyed
                      ? "Send a picture with one subject, whole and cut out; or order from the Figure stop of a piece."
                      : "Put in a key first. The practice service gives them away."}
                  </p>
                </EmptyState>
              )}
              <ul className="orders">
                {orders.data?.map((order) => (
                  <OrderRow key={order.id} order={order} open={OPEN.has(order.state)} act={(what) => act.mutate(what)} begin={() => begin.mutate(order)} />
                ))}
              </ul>
            </section>
          </>
        )}
      </main>
    </div>
  );
}
