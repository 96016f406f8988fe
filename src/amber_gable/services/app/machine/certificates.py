"""A local authority and a certificate of its own for `serve --tls`: phones need HTTPS to carry pages, and trust the authority once.

The authority may speak for this machine's kind of names and addresses only: who gets hold of its key cannot pass for anybody else.
"""

import ipaddress
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

from amber_gable.services.app.machine.addresses import own_addresses, own_names

if TYPE_CHECKING:
    from cryptography import x509

# Security needs the real time, not the application's clock.
_VALID, _AUTHORITY_VALID = timedelta(days=397), timedelta(days=3650)
_RENEWED = timedelta(days=30)
AUTHORITY = "authority.pem"
# Addresses of local networks (RFC 1918, 3927, 4193, 4291): what the authority may speak for, beside the machine's own.
_LOCAL = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fc00::/7", "fe80::/10", "::1/128")


def local_certificate(folder: Path) -> tuple[Path, Path]:
    """Return certificate and key in `folder`, made anew when missing, about to expire, or without an address this machine has now.

    The keys can be read by their owner only. The authority that signs them stays for ten years: phones trust it once.
    """
    from cryptography import x509

    certificate_file, key_file, authority_file = folder / "certificate.pem", folder / "key.pem", folder / AUTHORITY
    if certificate_file.exists() and key_file.exists() and authority_file.exists():
        with suppress(ValueError, x509.ExtensionNotFound):
            certificate = x509.load_pem_x509_certificate(certificate_file.read_bytes())
            named = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
            has_all = {str(a) for a in named.get_values_for_type(x509.IPAddress)} >= set(own_addresses())
            if has_all and certificate.not_valid_after_utc > datetime.now(UTC) + _RENEWED:
                return certificate_file, key_file
    folder.mkdir(parents=True, exist_ok=True)
    _make(certificate_file, key_file, *_authority(folder))
    return certificate_file, key_file


def fingerprint(folder: Path) -> str:
    """Return the SHA-256 fingerprint of the authority, as phones show it: to be compared before it is trusted."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes

    digest = x509.load_pem_x509_certificate((folder / AUTHORITY).read_bytes()).fingerprint(hashes.SHA256())
    return ":".join(f"{byte:02X}" for byte in digest)


def _new_key(file: Path) -> Any:
    from cryptography.hazmat.primitives import serialization
    from cryptography.hazmat.primitives.asymmetric import ec

    key = ec.generate_private_key(ec.SECP256R1())
    file.touch(mode=0o600)
    file.write_bytes(key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
    return key


def _authority(folder: Path) -> "tuple[x509.Certificate, Any]":
    """Return the authority and its key, made where one is missing or about to expire."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.x509.oid import NameOID

    file, key_file = folder / AUTHORITY, folder / "authority-key.pem"
    if file.exists() and key_file.exists():
        with suppress(ValueError):
            kept = x509.load_pem_x509_certificate(file.read_bytes())
            if kept.not_valid_after_utc > datetime.now(UTC) + _VALID:
                return kept, serialization.load_pem_private_key(key_file.read_bytes(), None)
    key = _new_key(key_file)
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Amber Gable on {own_names()[0]}")])
    names: list[x509.GeneralName] = [x509.DNSName(own) for own in (*own_names(), "local")]
    names += [x509.IPAddress(ipaddress.ip_network(net)) for net in (*_LOCAL, *own_addresses())]
    now = datetime.now(UTC)
    usage = x509.KeyUsage(
        digital_signature=False, content_commitment=False, key_encipherment=False, data_encipherment=False, key_agreement=False,
        key_cert_sign=True, crl_sign=True, encipher_only=False, decipher_only=False,
    )  # fmt: skip
    authority = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + _AUTHORITY_VALID)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(usage, critical=True)
        .add_extension(x509.NameConstraints(names, None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    file.write_bytes(authority.public_bytes(serialization.Encoding.PEM))
    return authority, key


def _make(certificate_file: Path, key_file: Path, authority: "x509.Certificate", authority_key: Any) -> None:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

    key = _new_key(key_file)
    names: list[x509.GeneralName] = [x509.DNSName(name) for name in own_names()]
    names += [x509.IPAddress(ipaddress.ip_address(address)) for address in own_addresses()]
    now = datetime.now(UTC)
    signer = x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key())
    certificate = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Amber Gable, local")]))
        .issuer_name(authority.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + _VALID)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(signer, critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    chain = certificate.public_bytes(serialization.Encoding.PEM) + authority.public_bytes(serialization.Encoding.PEM)
    certificate_file.write_bytes(chain)
