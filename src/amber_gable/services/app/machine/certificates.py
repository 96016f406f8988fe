"""A local certificate for `serve --tls`: phones on the site's network need HTTPS."""

import ipaddress
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

from amber_gable.services.app.machine.addresses import own_addresses, own_names

# Security needs the real time, not the application's clock.
_VALID = timedelta(days=397)
_RENEWED = timedelta(days=30)


def local_certificate(folder: Path) -> tuple[Path, Path]:
    """Return certificate and key in `folder`, made anew when missing, about to expire, or without an address this machine has now.

    The key can be read by its owner only. Browsers will ask once whether to trust it.
    """
    from cryptography import x509

    certificate_file, key_file = folder / "certificate.pem", folder / "key.pem"
    if certificate_file.exists() and key_file.exists():
        with suppress(ValueError, x509.ExtensionNotFound):
            certificate = x509.load_pem_x509_certificate(certificate_file.read_bytes())
            named = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
            has_all = {str(a) for a in named.get_values_for_type(x509.IPAddress)} >= set(own_addresses())
            if has_all and certificate.not_valid_after_utc > datetime.now(UTC) + _RENEWED:
                return certificate_file, key_file
    folder.mkdir(parents=True, exist_ok=True)
    _make(certificate_file, key_file)
    return certificate_file, key_file


def _make(certificate_file: Path, key_file: Path) -> None:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.hazmat.primitives.asymmetric import ec
    from cryptography.x509.oid import NameOID

    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Amber Gable, local")])
    names: list[x509.GeneralName] = [x509.DNSName(name) for name in own_names()]
    names += [x509.IPAddress(ipaddress.ip_address(address)) for address in own_addresses()]
    now = datetime.now(UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + _VALID)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .sign(key, hashes.SHA256())
    )
    key_file.touch(mode=0o600)
    key_file.write_bytes(key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
    certificate_file.write_bytes(certificate.public_bytes(serialization.Encoding.PEM))
