"""Which content codings a client takes: the examples and rules of RFC 9110, section 12.5.3."""

from __future__ import annotations

import unittest

from gremba.web.requests.accepted_codings import accepts


class Accepts(unittest.TestCase):
    def test_headers(self) -> None:
        for header, gzip, br in (
            ("compress, gzip", True, False),
            ("", False, False),
            ("*", True, True),
            ("compress;q=0.5, gzip;q=1.0", True, False),
            ("gzip;q=1.0, identity; q=0.5, *;q=0", True, False),
            ("gzip;q=0", False, False),
            ("gzip; Q=0.000 , br", False, True),
            ("*;q=0, br;q=0.001", False, True),
            ("gzip;q=0, *", False, True),
            ("GZIP", True, False),
            ("xgzip, gzipped", False, False),
            ("gzip;q=much", False, False),
            (",;=;,", False, False),
        ):
            with self.subTest(header):
                self.assertEqual((accepts(header, "gzip"), accepts(header, "br")), (gzip, br))


if __name__ == "__main__":
    unittest.main()
