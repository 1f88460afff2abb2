"""A small ledger behind a bridge, from docs/bridge.md alone: Python's standard library and nothing else.

It takes tax amounts as they are given, keeps its books in memory, and serves one company.

    python3 ledger_bridge.py --port 8080 --token secret --base USD
    python3 ledger_bridge.py --token secret --objects chart.json

With --objects it holds what stands in that file, `{ "accounts": [ { "id", "value" } ], … }` by resource, in place of its own few accounts.
"""

import argparse
import json
import threading
from datetime import datetime, timezone
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, unquote, urlsplit

DIGITS = {"JPY": 0, "KWD": 3}
BASE = "USD"
CURRENCIES = ["USD", "EUR", "JPY", "KWD"]


class Refused(Exception):
    """A request that is understood, and refused: nothing was written."""

    def __init__(self, status, code, detail):
        super().__init__(detail)
        self.status, self.code, self.detail = status, code, detail


def units(text, currency):
    """A decimal amount in minor units of its currency."""
    try:
        scaled = Decimal(text).scaleb(DIGITS.get(currency, 2))
    except (InvalidOperation, TypeError):
        raise Refused(422, "bad-amount", f'"{text}" is no amount.') from None
    if scaled != scaled.to_integral_value():
        raise Refused(422, "bad-amount", f'"{text}" has more digits than {currency}.')
    return int(scaled)


def amount(minor, currency):
    digits = DIGITS.get(currency, 2)
    return f"{Decimal(minor).scaleb(-digits):.{digits}f}"


def allocate(whole, weights):
    """Largest remainder: the parts add up to the whole."""
    total = sum(weights)
    if total == 0:
        return [0 for _ in weights]
    parts = [whole * w // total for w in weights]
    order = sorted(range(len(weights)), key=lambda i: (-(whole * weights[i] % total), -weights[i], i))
    for i in order[: whole - sum(parts)]:
        parts[i] += 1
    return parts


class Books:
    """All objects by resource; one lock from the draw of a sequence number to the end of a write, so that no reader skips one."""

    def __init__(self, objects=None):
        self.lock = threading.Lock()
        self.objects = {}
        self.sequence = 0
        self.numbers = {"booking": 100, "entry": 500}
        self.answers = {}
        for resource, held in (objects or {}).items():
            for one in held:
                self.put(resource, one["id"], one["value"])
        if objects is None:
            self.begin()

    def begin(self):
        for number, name, kind in [("1100", "Receivable", "receivable"), ("4000", "Sales", "income"), ("4100", "Shipping", "income"), ("2210", "State tax", "current-liability"), ("2212", "County tax", "current-liability")]:
            self.put("accounts", f"a{number}", {"number": number, "name": name, "type": kind})
        for code, account in [("STATE", "a2210"), ("COUNTY", "a2212")]:
            self.put("agencies", f"g{code}", {"code": code, "name": f"{code.title()} revenue", "liabilityAccountId": account})
        parts = [{"agencyId": "gSTATE", "name": "State", "percent": "5.5", "perUnit": None, "onTopOf": [], "from": None, "to": None}]
        self.put("tax-rates", "r1", {"code": "ST", "name": "State", "percent": "5.5", "active": True, "components": parts})

    def put(self, resource, key, value):
        self.sequence += 1
        held = self.objects.setdefault(resource, {}).get(key)
        revision = str(int(held["revision"]) + 1 if held else 1)
        self.objects[resource][key] = {"id": key, "sequence": str(self.sequence), "revision": revision, "removed": value is None, "value": value}
        return revision

    def get(self, resource, key):
        return self.objects.get(resource, {}).get(key)

    def page(self, resource, after, limit):
        items = sorted((o for o in self.objects.get(resource, {}).values() if int(o["sequence"]) > after), key=lambda o: int(o["sequence"]))
        page = items[:limit]
        return {"items": page, "next": page[-1]["sequence"] if page else str(after), "more": len(items) > limit}

    def number(self, name):
        self.numbers[name] += 1
        return str(self.numbers[name])

    def require_account(self, key):
        if not self.get("accounts", key):
            raise Refused(422, "unknown-account", f'There is no account "{key}" in this ledger.')

    # Journals: (account, description, agency, base, credit less debit), in minor units.

    def journal_of(self, request):
        currency = request["currency"]
        if currency not in CURRENCIES:
            raise Refused(422, "unknown-currency", f"{currency} is not in use here.")
        if request["kind"] == "correction":
            lines = [(l["accountId"], l["description"], l["agencyId"], l["base"], units(l["credit"], currency) - units(l["debit"], currency)) for l in request["journal"] or []]
            if len(lines) < 2 or sum(line[4] for line in lines) != 0:
                raise Refused(422, "out-of-balance", "The correction does not balance.")
        else:
            sign = -1 if request["kind"] == "credit-note" else 1
            lines = [(l["accountId"], l["description"], None, None, sign * units(l["net"], currency)) for l in request["lines"]]
            for tax in request["taxes"] or []:
                base = units(tax["base"], currency) * sign
                lines.append((tax["accountId"], "Tax", tax["agencyId"], amount(base, currency), sign * units(tax["tax"], currency)))
            total = sum(line[4] for line in lines)
            reimbursed = request.get("reimbursed")
            owed = sign * units(reimbursed["amount"], currency) if reimbursed else 0
            if reimbursed:
                lines.insert(0, (reimbursed["accountId"], "Reimbursed", None, None, -owed))
            lines.insert(0, (request["receivableAccountId"], request["party"]["name"], None, None, owed - total))
        for line in lines:
            self.require_account(line[0])
        return [line for line in lines if line[4] != 0]

    def in_books(self, lines, request):
        """The total converted once, each tax line by itself, the rest over each side's other lines; None in the books' own currency."""
        currency = request["currency"]
        if currency == BASE:
            return None
        if request["exchangeRate"] is None:
            raise Refused(422, "no-exchange-rate", f"{request['number']} states no exchange rate.")

        def converted(minor):
            exact = Decimal(minor).scaleb(-DIGITS.get(currency, 2)) * Decimal(request["exchangeRate"])
            return int(exact.scaleb(DIGITS.get(BASE, 2)).quantize(Decimal(1), rounding=ROUND_HALF_UP))

        whole = converted(sum(line[4] for line in lines if line[4] > 0))
        books = [converted(line[4]) if line[2] is not None else 0 for line in lines]
        for sign in (1, -1):
            side = [i for i, line in enumerate(lines) if line[4] * sign > 0]
            over = [i for i in side if lines[i][2] is None] or side
            left = whole * sign - sum(books[i] for i in side)
            parts = allocate(abs(left), [abs(lines[i][4]) for i in over])
            for i, part in zip(over, parts):
                books[i] += part if left > 0 else -part
        return books

    def record(self, key, request, entry_id):
        lines = self.journal_of(request)
        books = self.in_books(lines, request)
        currency = request["currency"]

        def side(minor, unit, debit):
            return amount(max(-minor if debit else minor, 0), unit)

        entry = entry_id or self.number("entry")
        booking = {"externalId": request["externalId"], "number": request["number"], "entry": entry, "state": "posted"}
        revision = self.put("bookings", key, booking)
        self.put("journal-entries", entry, {
            "number": entry, "bookingId": key, "externalId": request["externalId"], "bookingRevision": revision, "postingDate": request["postingDate"], "currency": currency, "baseCurrency": BASE,
            "memo": request["memo"], "voided": False, "changedBy": "bridge", "changedAt": datetime.now(timezone.utc).isoformat(), "webAddress": None,
            "lines": [{
                "accountId": account, "description": description, "agencyId": agency, "taxRateId": None, "base": base, "debit": side(credit, currency, True), "credit": side(credit, currency, False),
                "baseDebit": None if books is None else side(books[i], BASE, True), "baseCredit": None if books is None else side(books[i], BASE, False),
            } for i, (account, description, agency, base, credit) in enumerate(lines)],
        })
        return self.shown(key)

    def shown(self, key):
        held = self.get("bookings", key)
        return {"id": key, "externalId": held["value"]["externalId"], "number": held["value"]["number"], "revision": held["revision"], "state": held["value"]["state"]}

    def required(self, resource, key, match):
        held = self.get(resource, key)
        if not held:
            raise Refused(404, "unknown-object", f"There is no {resource}/{key}.")
        if match is None:
            raise Refused(428, "if-match-needed", "A change names the revision it is based on in If-Match.")
        if match != f'"{held["revision"]}"':
            raise Refused(412, "revision-moved", f"It is at revision {held['revision']}.")
        return held

    def void(self, key):
        held = self.get("bookings", key)
        entry = self.get("journal-entries", held["value"]["entry"])
        revision = self.put("bookings", key, {**held["value"], "state": "voided"})
        self.put("journal-entries", entry["id"], {**entry["value"], "voided": True, "bookingRevision": revision})
        return self.shown(key)

    def balances(self, start, end):
        sums = {}
        for held in self.objects.get("journal-entries", {}).values():
            entry = held["value"]
            if entry["voided"] or entry["postingDate"] > end:
                continue
            for line in entry["lines"]:
                row = sums.setdefault(line["accountId"], [0, 0, 0])
                debit, credit = units(line["baseDebit"] or line["debit"], BASE), units(line["baseCredit"] or line["credit"], BASE)
                if entry["postingDate"] < start:
                    row[0] += credit - debit
                else:
                    row[1] += debit
                    row[2] += credit
        return {"sequence": str(self.sequence), "items": [
            {"accountId": account, "currency": BASE, "opening": amount(o, BASE), "debit": amount(d, BASE), "credit": amount(c, BASE), "closing": amount(o + c - d, BASE)} for account, (o, d, c) in sums.items()
        ]}


ABOUT = {
    "contract": "1", "role": "ledger", "product": "Pennyroyal Ledger", "company": {"id": "p1", "name": "Pennyroyal Trading"}, "webAddress": None, "resources": ["accounts", "agencies", "tax-rates", "journal-entries"],
    "takes": ["bookings", "tax-rates", "agencies"], "taxComputation": "as-given", "idempotency": {"keepsKeysSeconds": 86400}, "findsByExternalId": True, "voids": True, "longestLateCommitSeconds": 2,
}
SETTINGS = {
    "baseCurrency": BASE, "currencies": CURRENCIES, "timeZone": "UTC", "taxEnabled": True, "computesTax": False, "keepsDocumentNumbers": True, "pairsCreditsItself": False, "usesAccountNumbers": True,
    "lockedThrough": None, "defaultItemTaxCode": None,
}


class Handler(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    books = None
    token = ""

    def log_message(self, *_):
        pass

    def answer(self, status, body, kind="application/json", headers=()):
        data = json.dumps(body).encode()
        self.send_response(status)
        for name, value in [("Content-Type", kind), ("Content-Length", str(len(data))), *headers]:
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(data)

    def handled(self, method):
        length = int(self.headers.get("Content-Length") or 0)
        raw = self.rfile.read(length) if length else b""
        try:
            if self.headers.get("Authorization") != f"Bearer {self.token}":
                raise Refused(401, "unauthorized", "The bearer token is missing or wrong.")
            address = urlsplit(self.path)
            parts = [unquote(part) for part in address.path.strip("/").split("/")]
            query = {name: values[0] for name, values in parse_qs(address.query).items()}
            with self.books.lock:
                status, body, headers = self.route(method, parts, query, raw)
            self.answer(status, body, headers=headers)
        except Refused as refused:
            problem = {"type": "about:blank", "title": refused.code.replace("-", " "), "status": refused.status, "code": refused.code, "detail": refused.detail}
            self.answer(refused.status, problem, "application/problem+json")
        except (KeyError, TypeError, json.JSONDecodeError) as error:
            self.answer(400, {"type": "about:blank", "title": "bad request", "status": 400, "detail": f"The request cannot be read: {error}"}, "application/problem+json")

    def route(self, method, parts, query, raw):
        books, (head, *rest) = self.books, parts
        if method == "GET" and not rest:
            if head == "about":
                return 200, ABOUT, ()
            if head == "settings":
                return 200, SETTINGS, ()
            if head == "balances":
                return 200, books.balances(query["from"], query["to"]), ()
            if head == "bookings":
                return 200, {"items": self.found(query)}, ()
            if head in ABOUT["resources"]:
                if not query.get("after", "0").isdigit() or not query.get("limit", "200").isdigit():
                    raise Refused(400, "bad-cursor", '"after" and "limit" are whole numbers.')
                return 200, books.page(head, int(query.get("after", "0")), min(max(int(query.get("limit", "200")), 1), 1000)), ()
        if head == "bookings" and method in ("POST", "PUT"):
            return self.once(method, parts, raw)
        if head in ("tax-rates", "agencies") and method == "PATCH" and len(rest) == 1:
            held = books.required(head, rest[0], self.headers.get("If-Match"))
            value = {**held["value"], **json.loads(raw)}
            revision = books.put(head, rest[0], value)
            return 200, {"id": rest[0], "revision": revision, "value": value}, [("ETag", f'"{revision}"')]
        raise Refused(404, "not-found", "There is nothing here.")

    def found(self, query):
        books = self.books
        if "idempotencyKey" in query:
            kept = books.answers.get(query["idempotencyKey"])
            return [books.shown(kept[1][1]["id"])] if kept else []
        return [books.shown(key) for key, held in books.objects.get("bookings", {}).items() if held["value"]["externalId"] == query.get("externalId")]

    def once(self, method, parts, raw):
        """A key's first answer, again; another request under it is refused."""
        key = self.headers.get("Idempotency-Key")
        asked = (method, self.path, raw)
        kept = self.books.answers.get(key) if key else None
        if kept and kept[0] != asked:
            raise Refused(409, "key-reused", "This idempotency key came with another request before.")
        answer = kept[1] if kept else self.booked(method, parts[1:], raw)
        if key:
            self.books.answers[key] = (asked, answer)
        return answer

    def booked(self, method, rest, raw):
        books = self.books
        if method == "POST" and not rest:
            shown, status = books.record(books.number("booking"), json.loads(raw), None), 201
        elif method == "PUT" and len(rest) == 1:
            held = books.required("bookings", rest[0], self.headers.get("If-Match"))
            shown, status = books.record(rest[0], json.loads(raw), held["value"]["entry"]), 200
        elif method == "POST" and rest[1:] == ["void"]:
            books.required("bookings", rest[0], self.headers.get("If-Match"))
            shown, status = books.void(rest[0]), 200
        else:
            raise Refused(404, "not-found", "There is nothing here.")
        return status, shown, [("ETag", f'"{shown["revision"]}"')]

    def do_GET(self):
        self.handled("GET")

    def do_POST(self):
        self.handled("POST")

    def do_PUT(self):
        self.handled("PUT")

    def do_PATCH(self):
        self.handled("PATCH")


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8080)
    parser.add_argument("--token", required=True)
    parser.add_argument("--base", default=BASE, choices=CURRENCIES, help="the books' currency")
    parser.add_argument("--objects", type=argparse.FileType(encoding="utf-8"), help="a file of what it holds")
    options = parser.parse_args()
    globals()["BASE"] = SETTINGS["baseCurrency"] = options.base
    Handler.books, Handler.token = Books(json.load(options.objects) if options.objects else None), options.token
    server = ThreadingHTTPServer(("127.0.0.1", options.port), Handler)
    print(f"listening on {server.server_address[1]}", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()
