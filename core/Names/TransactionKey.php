<?php

declare(strict_types=1);

namespace Kaiseki\Core\Names;

use SensitiveParameter;

/** A secret that is shared with a name server, by which it knows who changes something (TSIG, RFC 8945). */
final readonly class TransactionKey
{
    /** RFC 8945, section 6, without those that are no more to be used. */
    private const ALGORITHMS = ['hmac-sha224', 'hmac-sha256', 'hmac-sha384', 'hmac-sha512'];

    private const LARGEST_FILE = 4096;

    public function __construct(public string $algorithm, public string $name, #[SensitiveParameter] public string $secret)
    {
    }

    /**
     * One as name servers write them down: key "NAME" { algorithm ALGORITHM; secret "BASE64"; };
     *
     * @throws NameFailure if the file cannot be read, or holds none
     */
    public static function ofFile(string $path): self
    {
        $text = is_file($path) ? (string) @file_get_contents($path, false, null, 0, self::LARGEST_FILE) : '';
        $said = fn (string $word): string => preg_match("~\\b$word\\s+\"?([A-Za-z0-9.+/=_-]+)\"?~", $text, $found) === 1 ? $found[1] : '';
        [$name, $algorithm, $secret] = [$said('key'), strtolower($said('algorithm')), $said('secret')];
        if ($name === '' || base64_decode($secret, true) === false || $secret === '') {
            throw NameFailure::because("$path cannot be read, or holds no key: key \"NAME\" { algorithm hmac-sha256; secret \"...\"; };");
        }

        return in_array($algorithm, self::ALGORITHMS, true)
            ? new self($algorithm, DomainName::of($name)->name, $secret)
            : throw NameFailure::because("the algorithm of the key $name is none of ".implode(', ', self::ALGORITHMS));
    }
}
