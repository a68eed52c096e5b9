"""The page of the stand-in payment service."""

from __future__ import annotations

from html import escape

from gremba.actions.account.payment_service import BegunPayment
from gremba.core.wording import amount
from gremba.standins.payment import ADDRESS, TEST_CARDS

_STYLE = """
body{margin:0;background:#e9edf0;color:#17212b;font:16px/1.5 system-ui,sans-serif}
main{max-width:27rem;margin:3rem auto;background:#fff;padding:1.5rem 1.75rem;border:1px solid #b9c4cd}
h1{font-size:1.75rem;margin:.75rem 0 .25rem;font-variant-numeric:tabular-nums}
h2{font-size:1rem;margin:1.5rem 0 .25rem}
.apart{font-size:.875rem;color:#44525e;border-bottom:1px solid #b9c4cd;margin:0;padding-bottom:.75rem}
p{margin:.5rem 0}
[role=alert]{border-left:4px solid #a3262a;padding:.25rem .75rem;background:#fbeeee}
input{font:inherit;width:100%;box-sizing:border-box;padding:.5rem;border:1px solid #5a6975}
button{font:inherit;padding:.5rem 1rem;border:1px solid #23506f;background:#23506f;color:#fff;cursor:pointer}
button.leave{background:#fff;color:#23506f}
:focus-visible{outline:3px solid #d08a1d;outline-offset:2px}
ul{padding-left:1.1rem;margin:.25rem 0;font-size:.875rem}
@media (max-width:30rem){main{margin:0;border:0}}
"""


def payment_page(token: str, payment: BegunPayment, nonce: str, problem: str = "") -> str:
    """The page.

    Args:
        token: the last part of its address.
        nonce: that lets its style pass.
        problem: what was the matter with the card typed before; "" for nothing.
    """
    cards = "".join(f"<li><code>{card.number}</code> {escape(card.what)}</li>" for card in TEST_CARDS)
    told = f'<p role="alert">{escape(problem)}</p>' if problem else ""
    action = f"{ADDRESS}/{escape(token)}"
    return f"""<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Pay {amount(payment.amount_cents)}</title>
<style nonce="{nonce}">{_STYLE}</style>
</head>
<body>
<main>
<p class="apart">A stand-in for a payment service, apart from the college. It takes its own test cards and no
money.</p>
<h1>{amount(payment.amount_cents)}</h1>
<p>{escape(payment.what)}</p>
{told}
<form method="post" action="{action}">
<p><label for="card">Card number</label></p>
<p><input id="card" name="card" inputmode="numeric" autocomplete="cc-number" required autofocus></p>
<p><button type="submit">Pay {amount(payment.amount_cents)}</button></p>
</form>
<form method="post" action="{action}">
<p><button class="leave" type="submit" name="leave" value="yes">Go back without paying</button></p>
</form>
<h2>Test cards</h2>
<ul>{cards}</ul>
</main>
</body>
</html>
"""
