<?php

declare(strict_types=1);

namespace Kaiseki\Core\Trail;

use SensitiveParameter;

/** How far the trail had come at the end of a day (UTC), signed with Ed25519 (RFC 8032), so that it cannot be written anew up to there. */
final readonly class SealedDay
{
    public const FORMAT = 'kaiseki trail day 1';

    /**
     * @param  string  $day  YYYY-MM-DD
     * @param  int  $entries  that were sealed by then, from the first on
     * @param  string  $seal  the last of them
     * @param  string  $publicKey  32 bytes
     * @param  string  $signature  64 bytes
     */
    private function __construct(
        public string $day,
        public int $entries,
        public string $seal,
        public string $publicKey,
        public string $signature,
    ) {
    }

    /** @param  non-empty-string  $keyPair */
    public static function sign(string $day, int $entries, string $seal, #[SensitiveParameter] string $keyPair): self
    {
        return new self(
            $day,
            $entries,
            $seal,
            sodium_crypto_sign_publickey($keyPair),
            sodium_crypto_sign_detached(self::told($day, $entries, $seal), sodium_crypto_sign_secretkey($keyPair)),
        );
    }

    /** Null if it is not one. */
    public static function parse(string $json): ?self
    {
        $said = json_decode($json, true);
        $of = fn (string $name): string => is_array($said) && is_string($said[$name] ?? null) ? $said[$name] : '';
        $key = base64_decode($of('public_key'), true);
        $signature = base64_decode($of('signature'), true);
        $isOne =
            is_array($said) &&
            $of('format') === self::FORMAT &&
            is_int($said['entries'] ?? null) &&
            preg_match('/^\d{4}-\d\d-\d\d$/D', $of('day')) === 1 &&
            preg_match('/^[0-9a-f]{64}$/D', $of('seal')) === 1 &&
            is_string($key) &&
            strlen($key) === SODIUM_CRYPTO_SIGN_PUBLICKEYBYTES &&
            is_string($signature) &&
            strlen($signature) === SODIUM_CRYPTO_SIGN_BYTES;

        return $isOne ? new self($of('day'), $said['entries'], $of('seal'), $key, $signature) : null;
    }

    /** Whether its own key signed just this. */
    public function isSound(): bool
    {
        return $this->signature !== '' && $this->publicKey !== '' &&
            sodium_crypto_sign_verify_detached($this->signature, self::told($this->day, $this->entries, $this->seal), $this->publicKey);
    }

    public function json(): string
    {
        return json_encode(
            [
                'format' => self::FORMAT,
                'day' => $this->day,
                'entries' => $this->entries,
                'seal' => $this->seal,
                'public_key' => base64_encode($this->publicKey),
                'signature' => base64_encode($this->signature),
            ],
            JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR,
        )."\n";
    }

    private static function told(string $day, int $entries, string $seal): string
    {
        return self::FORMAT."\n$day\n$entries\n$seal\n";
    }
}
