<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** A part of a message: its headers, and where its content stands; nothing of it is decoded until it is asked for. */
final readonly class MessagePart
{
    /**
     * @param  array<string, list<string>>  $headers  small letters => values, unfolded
     * @param  int  $from  bytes from the beginning of the message
     * @param  int  $until  exclusive
     * @param  list<self>  $parts
     */
    public function __construct(
        public array $headers,
        public HeaderParameters $type,
        public int $from,
        public int $until,
        public array $parts,
    ) {
    }

    public function first(string $header): string
    {
        return $this->headers[$header][0] ?? '';
    }

    public function isMultipart(): bool
    {
        return str_starts_with($this->type->value, 'multipart/');
    }

    public function encoding(): string
    {
        return strtolower(trim($this->first('content-transfer-encoding')));
    }

    public function disposition(): HeaderParameters
    {
        return HeaderParameters::of($this->first('content-disposition'));
    }

    /** The name that it was sent under; null if it has none. */
    public function name(): ?string
    {
        return $this->disposition()->get('filename') ?? $this->type->get('name');
    }

    /**
     * Its bytes as they were before they were encoded for sending.
     *
     * @param  int  $most  of what is stored so many bytes are looked at
     */
    public function decoded(string $message, int $most = PHP_INT_MAX): string
    {
        $stored = substr($message, $this->from, min($this->until - $this->from, $most));

        return match ($this->encoding()) {
            'base64' => (string) base64_decode((string) preg_replace('~[^A-Za-z0-9+/=]~', '', $stored)),
            'quoted-printable' => quoted_printable_decode($stored),
            default => $stored,
        };
    }

    /** As text in UTF-8, by the charset that it names. */
    public function text(string $message, int $most): string
    {
        return Charset::toUtf8($this->decoded($message, $most), $this->type->get('charset') ?? '');
    }
}
