"""A mail server, as far as we need one: send this text, or say why not."""

from __future__ import annotations

import smtplib
import ssl
from dataclasses import dataclass
from email.message import EmailMessage
from email.utils import localtime
from typing import Protocol

from jarbloom.errors import DeviceError

TIMEOUT_S = 15


@dataclass(frozen=True)
class MailServer:
    host: str
    port: int
    security: str = "none"  # none | starttls | tls
    user: str = ""
    password: str = ""


@dataclass(frozen=True)
class Mail:
    sender: str
    to: str
    subject: str
    body: str
    message_id: str


class Mailer(Protocol):
    def send(self, mail: Mail) -> None:
        """Hand a mail over. Raises DeviceError with a sentence; `Unsure` when it may have arrived."""


class Unsure(DeviceError):
    """The connection broke after the text was handed over: it may or may not have arrived."""


@dataclass(frozen=True)
class SmtpMailer:
    """Through an SMTP server (RFC 5321), with STARTTLS or TLS where asked."""

    server: MailServer

    def send(self, mail: Mail) -> None:
        message = EmailMessage()
        message["From"], message["To"], message["Subject"] = mail.sender, mail.to, mail.subject
        message["Message-ID"] = mail.message_id
        message["Date"] = localtime()
        message.set_content(mail.body)
        try:
            with self._open() as smtp:
                if self.server.security == "starttls":
                    smtp.starttls(context=ssl.create_default_context())
                if self.server.user:
                    smtp.login(self.server.user, self.server.password)
                self._hand_over(smtp, message)
        except smtplib.SMTPResponseException as refused:
            said = refused.smtp_error.decode("utf-8", "replace") if isinstance(refused.smtp_error, bytes) else ""
            raise DeviceError(f"The mail server refused: {refused.smtp_code} {said}".strip()) from None
        except smtplib.SMTPRecipientsRefused:
            raise DeviceError(f"The mail server does not take mail for {mail.to}.") from None
        except smtplib.SMTPException as problem:
            raise DeviceError(f"The mail server and we did not understand each other: {problem}.") from None
        except (OSError, ssl.SSLError) as problem:
            where = f"{self.server.host}:{self.server.port}"
            raise DeviceError(f"The mail server {where} cannot be reached: {problem}.") from None

    def _open(self) -> smtplib.SMTP:
        if self.server.security == "tls":
            context = ssl.create_default_context()
            return smtplib.SMTP_SSL(self.server.host, self.server.port, timeout=TIMEOUT_S, context=context)
        return smtplib.SMTP(self.server.host, self.server.port, timeout=TIMEOUT_S)

    @staticmethod
    def _hand_over(smtp: smtplib.SMTP, message: EmailMessage) -> None:
        try:
            smtp.send_message(message)
        except smtplib.SMTPServerDisconnected as broken:
            raise Unsure(f"The connection broke while the mail was handed over: {broken}.") from None
        except TimeoutError as late:
            raise Unsure(f"The mail server did not answer after the mail was handed over: {late}.") from None
