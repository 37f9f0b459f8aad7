"""A device that makes passkeys, as the published standard has it (W3C Web Authentication, level 2, §6.1, §6.5, §5.8.1; COSE keys RFC 9053 §7.1).

It shares no code with what checks it: bytes are put together here, signed by a general cryptography library.
"""

import hashlib
import json
import secrets
import struct
from base64 import urlsafe_b64decode, urlsafe_b64encode

import cbor2
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256

PRESENT, VERIFIED, ATTESTED = 0x01, 0x04, 0x40


def b64(data):
    return urlsafe_b64encode(data).rstrip(b"=").decode()


def unb64(text):
    return urlsafe_b64decode(text + "=" * (-len(text) % 4))


class Device:
    """Keeps one key for one site; ``unlocked`` whether its owner was asked for a finger or a PIN."""

    def __init__(self, origin="http://localhost", site="localhost"):
        self.origin, self.site, self.uses, self.unlocked = origin, site, 0, True
        self.key, self.id, self.handle = ec.generate_private_key(ec.SECP256R1()), secrets.token_bytes(16), b""

    def _client_data(self, kind, challenge):
        return json.dumps({"type": kind, "challenge": challenge, "origin": self.origin, "crossOrigin": False}).encode()

    def _data(self, more=b"", flags=0):
        self.uses += 1
        flags |= PRESENT | (VERIFIED if self.unlocked else 0)
        return hashlib.sha256(self.site.encode()).digest() + struct.pack(">BI", flags, self.uses) + more

    def made(self, options):
        """The answer to being asked to make one."""
        self.handle = unb64(options["user"]["id"])
        point = self.key.public_key().public_numbers()
        cose = {1: 2, 3: -7, -1: 1, -2: point.x.to_bytes(32, "big"), -3: point.y.to_bytes(32, "big")}
        attested = bytes(16) + struct.pack(">H", len(self.id)) + self.id + cbor2.dumps(cose)
        attestation = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": self._data(attested, ATTESTED)})
        client = self._client_data("webauthn.create", options["challenge"])
        return self._answer(clientDataJSON=b64(client), attestationObject=b64(attestation))

    def signs(self, options):
        """The answer to being asked who is there."""
        client, data = self._client_data("webauthn.get", options["challenge"]), self._data()
        signature = self.key.sign(data + hashlib.sha256(client).digest(), ec.ECDSA(SHA256()))
        whole = {"clientDataJSON": client, "authenticatorData": data, "signature": signature, "userHandle": self.handle}
        return self._answer(**{k: b64(v) for k, v in whole.items()})

    def _answer(self, **response):
        return {"id": b64(self.id), "rawId": b64(self.id), "type": "public-key", "response": response, "clientExtensionResults": {}}  # fmt: skip
