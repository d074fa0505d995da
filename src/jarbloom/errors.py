"""Every exception of ours. Each carries one sentence that is fit to show to the keeper.

JarBloomError
├── Refused            a value cannot be taken; names the field
│   ├── Clash          the same thing already stands in the log at that minute
│   └── Outdated       the page it was sent from shows what was changed meanwhile
├── NotFound           no such tank, entry, batch or act
├── GateClosed         a batch was called 'in' without a passed gate or a reason
├── BadBundle          a bundle cannot be read; names file and row
├── BadData            a shipped or keeper's data file is wrong; names row and field
├── DeviceError        a probe or mail server did not do what it was asked
├── AlreadyDone        this very thing was sent before, and done
├── BeingMade          a forecast is being worked out, and who asks does not want to wait for it
└── StoreError         the database cannot be opened or is from a newer version
"""

from __future__ import annotations


class JarBloomError(Exception):
    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


class Refused(JarBloomError):
    def __init__(self, sentence: str, field: str = "") -> None:
        super().__init__(sentence)
        self.field = field


class Clash(Refused):
    """Two entries say the same thing at the same minute: the keeper decides whether both stay."""


class Outdated(Refused):
    """Somebody else changed the same thing since the page was made; nothing is overwritten unseen."""


class NotFound(JarBloomError):
    pass


class GateClosed(JarBloomError):
    pass


class BadBundle(JarBloomError):
    pass


class BadData(JarBloomError):
    def __init__(self, sentence: str, field: str = "") -> None:
        super().__init__(sentence)
        self.field = field


class AlreadyDone(JarBloomError):
    pass


class BeingMade(JarBloomError):
    """`slug`: the tank; `before`: what was said of it before the entry that asks for a new forecast, '' for nothing."""

    def __init__(self, name: str, slug: str, before: str) -> None:
        super().__init__(f"The forecast of {name} is being worked out with what was logged last.")
        self.slug, self.before = slug, before


class DeviceError(JarBloomError):
    pass


class StoreError(JarBloomError):
    pass
