<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** One of a header's addresses (RFC 5322, section 3.4). */
final readonly class MailAddress
{
    /** Of one header so many are taken. */
    public const MOST = 2_000;

    private const LONGEST = 1 << 18;

    public function __construct(public string $name, public string $address)
    {
    }

    /** @return list<self> groups are taken apart, comments left out */
    public static function list(string $header): array
    {
        $header = (string) preg_replace('/\((?:[^()\\\\]|\\\\.)*+\)/', '', substr($header, 0, self::LONGEST));
        preg_match_all('/(?:"(?:[^"\\\\]|\\\\.)*+"|<[^>]*+>|[^",;<])+/', $header, $pieces);
        $list = [];
        foreach (array_slice($pieces[0], 0, self::MOST) as $piece) {
            $one = self::one(self::withoutGroup(trim($piece)));
            if ($one !== null) {
                $list[] = $one;
            }
        }

        return $list;
    }

    public function words(): string
    {
        return $this->name === '' ? $this->address : "{$this->name} <{$this->address}>";
    }

    private static function withoutGroup(string $piece): string
    {
        $colon = strpos($piece, ':');

        return $colon === false || preg_match('/[<"@]/', substr($piece, 0, $colon)) === 1 ? $piece : trim(substr($piece, $colon + 1));
    }

    /** A name as it is meant, also where only a part of it stands between quotation marks. */
    private static function unquoted(string $name): string
    {
        return (string) preg_replace_callback('/"((?:[^"\\\\]|\\\\.)*+)"?/', fn (array $m): string => stripslashes($m[1]), $name);
    }

    private static function one(string $piece): ?self
    {
        if ($piece === '') {
            return null;
        }
        if (preg_match('/^(.*?)<([^>]*)>/s', $piece, $m) === 1) {
            return new self(HeaderWords::text(self::unquoted(trim($m[1]))), HeaderWords::clean($m[2]));
        }

        return new self('', HeaderWords::text($piece));
    }
}
