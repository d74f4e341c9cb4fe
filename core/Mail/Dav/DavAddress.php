<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use InvalidArgumentException;

/** Where a server keeps the calendars and contacts of a mailbox (RFC 4791, RFC 6352). */
final readonly class DavAddress
{
    private const FORM = '~^(https?)://(\[[0-9a-fA-F:]+\]|[A-Za-z0-9.-]{1,253})(?::(\d{1,5}))?(/[\x21-\x7e]*)?$~D';

    private const PLACE = '{mailbox}';

    private function __construct(public string $origin, private string $path)
    {
    }

    /**
     * @param  string  $words  "https://dav.example/dav/{mailbox}/"; without {mailbox} that is added
     *
     * @throws InvalidArgumentException
     */
    public static function parse(string $words): self
    {
        if (preg_match(self::FORM, $words, $m) !== 1 || (int) ($m[3] ?? 0) > 65_535 || str_contains($m[4] ?? '', '..')) {
            throw new InvalidArgumentException(
                "\"$words\" is no address of calendars. Write it as https://dav.example/{mailbox}/, ".
                    'or http://127.0.0.1:5232/ on this machine.',
            );
        }
        if ($m[1] === 'http' && ! in_array($m[2], ['127.0.0.1', '[::1]', 'localhost'], true)) {
            throw new InvalidArgumentException('Over a network passwords and appointments go encrypted only: write https://.');
        }
        $path = rtrim($m[4] ?? '', '/');

        return new self(
            "{$m[1]}://{$m[2]}".(($m[3] ?? '') === '' ? '' : ":{$m[3]}"),
            (str_contains($path, self::PLACE) ? $path : "$path/".self::PLACE).'/',
        );
    }

    /** The path of the collections of a mailbox, percent-encoded, with a slash at its end. */
    public function home(string $account): string
    {
        return str_replace(self::PLACE, rawurlencode($account), $this->path);
    }

    public function words(): string
    {
        return $this->origin.$this->path;
    }
}
