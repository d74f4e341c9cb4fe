<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

use InvalidArgumentException;

/** Evidence with its signature (Ed25519, RFC 8032) over its canonical form. */
final readonly class SignedProof
{
    private function __construct(
        /** @var array<string, mixed> */
        public array $evidence,
        /** 32 bytes. */
        public string $publicKey,
        /** 64 bytes. */
        public string $signature,
    ) {
    }

    /**
     * @param  array<string, mixed>  $evidence
     * @param  non-empty-string  $keyPair  of sodium_crypto_sign_keypair
     */
    public static function sign(array $evidence, string $keyPair): self
    {
        return new self(
            $evidence,
            sodium_crypto_sign_publickey($keyPair),
            sodium_crypto_sign_detached(CanonicalJson::encode($evidence), sodium_crypto_sign_secretkey($keyPair)),
        );
    }

    /** @throws InvalidArgumentException if it is no proof */
    public static function parse(string $json): self
    {
        $proof = json_decode($json, true, 64);
        $key = is_array($proof) ? base64_decode((string) ($proof['signature']['public_key'] ?? ''), true) : false;
        $signature = is_array($proof) ? base64_decode((string) ($proof['signature']['value'] ?? ''), true) : false;
        if (
            ! is_array($proof) ||
            ! is_array($proof['evidence'] ?? null) ||
            $key === false ||
            strlen($key) !== 32 ||
            $signature === false ||
            strlen($signature) !== 64
        ) {
            throw new InvalidArgumentException('This is not a proof: it has no evidence, or no signature that could be one.');
        }

        return new self($proof['evidence'], $key, $signature);
    }

    /** Whether not a letter was changed since it was signed. Whose key it is, is for the reader to know. */
    public function isSound(): bool
    {
        try {
            return $this->signature !== '' &&
                $this->publicKey !== '' &&
                sodium_crypto_sign_verify_detached($this->signature, CanonicalJson::encode($this->evidence), $this->publicKey);
        } catch (InvalidArgumentException) {
            return false;
        }
    }

    public function json(): string
    {
        return CanonicalJson::encode([
            'evidence' => $this->evidence,
            'signature' => [
                'algorithm' => 'Ed25519',
                'public_key' => base64_encode($this->publicKey),
                'value' => base64_encode($this->signature),
            ],
        ])."\n";
    }
}
