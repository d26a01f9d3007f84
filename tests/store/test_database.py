"""How the application connects: what leaves this machine is encrypted where it can be, what stays is not."""

import pytest
from sqlalchemy import event

from zesty_lark.store.database import connect


class Asked(Exception):
    """What a connection was asked to be made with."""


@pytest.mark.parametrize(
    ("where", "plain"),
    [
        ("lark:secret@127.0.0.1:3306/shop", True),
        ("lark:secret@localhost/shop?unix_socket=/run/shop.sock", True),
        ("lark:secret@/shop?unix_socket=/run/shop.sock", True),
        ("lark:secret@192.0.2.20/shop", False),
        ("lark:secret@127.0.0.1:3306/shop?ssl_ca=/etc/shop.pem", False),
    ],
)
def test_only_what_stays_on_this_machine_goes_without_encryption(where: str, plain: bool) -> None:
    engine = connect(f"mariadb+pymysql://{where}")

    def told(_dialect: object, _record: object, _positional: object, named: dict[str, object]) -> None:
        raise Asked(named)

    event.listen(engine, "do_connect", told)
    with pytest.raises(Asked) as asked:
        engine.connect()
    assert asked.value.args[0].get("ssl_disabled", False) is plain, where
