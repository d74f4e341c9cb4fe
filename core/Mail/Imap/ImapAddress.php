<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

use InvalidArgumentException;

/** Where a mail server is, and how its line is kept from others. */
final readonly class ImapAddress
{
    private const FORM = '~^(imaps?)://(\[[0-9a-fA-F:]+\]|[A-Za-z0-9.-]{1,253})(?::(\d{1,5}))?(?:#([0-9a-fA-F:]{64,95}))?$~D';

    /** @param  string  $fingerprint  SHA-256 of its certificate, hex; '' where a known authority vouches for it */
    private function __construct(public string $host, public int $port, public bool $isEncrypted, public string $fingerprint)
    {
    }

    /**
     * @param  string  $words  "imaps://mail.example", "imaps://mail.example:993#SHA256", or "imap://127.0.0.1:1143" on this machine
     *
     * @throws InvalidArgumentException
     */
    public static function parse(string $words): self
    {
        if (preg_match(self::FORM, $words, $m) !== 1) {
            throw new InvalidArgumentException(
                "\"$words\" is no address of a mail server. Write it as imaps://mail.example, or imap://127.0.0.1:1143 on this machine.",
            );
        }
        $isEncrypted = $m[1] === 'imaps';
        $port = (int) (($m[3] ?? '') === '' ? ($isEncrypted ? 993 : 143) : $m[3]);
        if ($port < 1 || $port > 65535) {
            throw new InvalidArgumentException("$port is no port.");
        }
        if (! $isEncrypted && ! in_array($m[2], ['127.0.0.1', '[::1]', 'localhost'], true)) {
            throw new InvalidArgumentException('Over a network passwords and mail go encrypted only: write imaps://.');
        }

        return new self($m[2], $port, $isEncrypted, strtolower(str_replace(':', '', $m[4] ?? '')));
    }

    public function words(): string
    {
        return ($this->isEncrypted ? 'imaps' : 'imap')."://{$this->host}:{$this->port}";
    }
}
