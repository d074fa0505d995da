"""A certificate of the house's own for encrypted pages, where none was given: its fingerprint is what one compares."""

from __future__ import annotations

import hashlib
import ipaddress
import os
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

CERT_NAME, KEY_NAME = "house-certificate.pem", "house-key.pem"
VALID_DAYS = 825  # what browsers take at most


def house_certificate(folder: Path, names: Iterable[str], now: datetime | None = None) -> tuple[Path, Path]:
    """(certificate, key) in the folder: those of before while they hold for all the names and a month more, else made
    anew."""
    cert_path, key_path, wanted = folder / CERT_NAME, folder / KEY_NAME, sorted(set(names))
    moment = now or datetime.now(UTC)
    if cert_path.is_file() and key_path.is_file() and _holds(cert_path, wanted, moment):
        return cert_path, key_path
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Jar Bloom, this house")])
    made = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(moment - timedelta(days=1))
        .not_valid_after(moment + timedelta(days=VALID_DAYS))
        .add_extension(x509.SubjectAlternativeName([_name(n) for n in wanted]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .sign(key, hashes.SHA256())
    )
    _write(
        key_path,
        key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()),
    )
    _write(cert_path, made.public_bytes(serialization.Encoding.PEM))
    return cert_path, key_path


def fingerprint(cert_path: Path) -> str:
    """SHA-256 in pairs, as browsers show it."""
    cert = x509.load_pem_x509_certificate(cert_path.read_bytes())
    told = hashlib.sha256(cert.public_bytes(serialization.Encoding.DER)).hexdigest().upper()
    return ":".join(told[k : k + 2] for k in range(0, len(told), 2))


def _name(text: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(text))
    except ValueError:
        return x509.DNSName(text)


def _holds(cert_path: Path, wanted: list[str], now: datetime) -> bool:
    try:
        cert = x509.load_pem_x509_certificate(cert_path.read_bytes())
        told = cert.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (ValueError, x509.ExtensionNotFound):
        return False
    here = {str(n) for n in [*told.get_values_for_type(x509.IPAddress), *told.get_values_for_type(x509.DNSName)]}
    return set(wanted) <= here and cert.not_valid_after_utc > now + timedelta(days=30)


def _write(path: Path, content: bytes) -> None:
    part = path.with_name(f"{path.name}.part")
    part.unlink(missing_ok=True)
    with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(content)
    part.replace(path)
