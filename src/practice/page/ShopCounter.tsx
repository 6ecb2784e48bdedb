import { useState } from 'react';
import { Choice, Tick } from '../../components/fields.tsx';
import { ORDER_STATES } from '../order-states.ts';
import { type DeskState, post } from './desk-api.ts';
import { PersonFields, usePerson } from './PersonFields.tsx';
import { Pushes } from './Pushes.tsx';

/** The instrument shop: sign up, order, and move orders on. */
export function ShopCounter({
  desk,
  onSent,
}: {
  desk: DeskState;
  onSent: (phone: string | null, email: string) => void;
}) {
  const person = usePerson();
  const [agrees, setAgrees] = useState(false);
  const [customerId, setCustomerId] = useState('');
  const [sku, setSku] = useState(desk.goods[0]!.sku);
  const buyer = desk.customers.find((customer) => customer.id === customerId) ?? desk.customers.at(-1);
  return (
    <>
      <h2 className="text-lg">Wrenfield instrument shop</h2>
      <form
        className="mt-2"
        onSubmit={(event) => {
          event.preventDefault();
          onSent(person.e164, person.email);
          void post('/shop/customers', {
            first_name: person.first,
            last_name: person.last,
            email: person.email,
            phone: person.phone,
            accepts_marketing: agrees,
          }).then(() => {
            setCustomerId('');
            person.fill();
          });
        }}
      >
        <PersonFields person={person} />
        <div className="mt-3 flex items-center gap-3">
          <Tick label="Agrees to texts and email" block="flex items-center gap-2" value={agrees} onChange={setAgrees} />
          <button className="btn btn-primary btn-sm ml-auto" type="submit">
            Sign up as a customer
          </button>
        </div>
      </form>
      {buyer && (
        <div className="mt-3 grid grid-cols-2 items-end gap-2 border-t border-base-300 pt-3">
          <Choice label="Customer" block="block grow" small value={buyer.id} onChange={setCustomerId}>
            {desk.customers.slice(-20).map((customer) => (
              <option key={customer.id} value={customer.id}>
                {customer.first_name} {customer.last_name}
              </option>
            ))}
          </Choice>
          <Choice label="Orders" block="block grow" small value={sku} onChange={setSku}>
            {desk.goods.map((good) => (
              <option key={good.sku} value={good.sku}>
                {good.name}
              </option>
            ))}
          </Choice>
          <button
            type="button"
            className="btn btn-primary btn-sm col-span-2 justify-self-end"
            onClick={() =>
              void post('/shop/orders', {
                customerId: buyer.id,
                lines: [
                  { sku, quantity: 1 },
                  { sku: 'ROSIN-AMB', quantity: 2 },
                ],
              })
            }
          >
            Place the order
          </button>
        </div>
      )}
      <ul className="mt-3">
        {[...desk.orders]
          .reverse()
          .slice(0, 5)
          .map((order) => (
            <li key={order.id} className="flex items-center gap-2 border-b border-base-300 py-1.5">
              <span className="font-semibold">Order {order.number}</span>
              <span className="text-ink-2">£{order.total}</span>
              <select
                className="select select-xs ml-auto"
                style={{ width: 120 }}
                aria-label={`State of order ${order.number}`}
                value={order.status}
                onChange={(event) => void post(`/shop/orders/${order.id}`, { status: event.target.value })}
              >
                {ORDER_STATES.map((state) => (
                  <option key={state}>{state}</option>
                ))}
              </select>
            </li>
          ))}
      </ul>
      <Pushes pushes={desk.pushes.filter((push) => push.service === 'shop').reverse()} none="Nothing yet." />
    </>
  );
}
