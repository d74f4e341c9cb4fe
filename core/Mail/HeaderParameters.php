<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** A value with parameters: `text/plain; charset=utf-8` (RFC 2045, section 5.1; continued and encoded ones by RFC 2231). */
final readonly class HeaderParameters
{
    private const LONGEST = 16_384;

    /** @param  array<string, string>  $parameters  small letters => UTF-8 */
    private function __construct(public string $value, public array $parameters)
    {
    }

    public static function of(string $header): self
    {
        $header = substr($header, 0, self::LONGEST);
        $cut = strpos($header, ';');
        if ($cut === false) {
            return new self(strtolower(trim($header)), []);
        }
        preg_match_all('/;\s*([^\s=;]+)\s*=\s*(?:"((?:[^"\\\\]|\\\\.)*+)"?|([^;\s]*))/', substr($header, $cut), $found, PREG_SET_ORDER);
        $plain = $pieces = [];
        foreach ($found as $one) {
            $name = strtolower($one[1]);
            $value = $one[3] ?? stripslashes($one[2]);
            if (preg_match('/^([^*]+)(?:\*(\d{1,3}))?(\*)?$/', $name, $m) === 1 && $m[1] !== $name) {
                $pieces[$m[1]][(int) $m[2]] = [$value, isset($m[3])];
            } else {
                $plain[$name] ??= HeaderWords::text($value);
            }
        }

        return new self(strtolower(trim(substr($header, 0, $cut))), array_map(self::joined(...), $pieces) + $plain);
    }

    public function get(string $name): ?string
    {
        return $this->parameters[$name] ?? null;
    }

    /** @param  array<int, array{string, bool}>  $pieces  number => value, whether it is percent-encoded */
    private static function joined(array $pieces): string
    {
        ksort($pieces);
        $text = $charset = '';
        foreach ($pieces as $number => [$value, $isEncoded]) {
            if ($isEncoded && $number === 0 && preg_match("/^([^']*)'[^']*'(.*)$/s", $value, $m) === 1) {
                [, $charset, $value] = $m;
            }
            $text .= $isEncoded ? rawurldecode($value) : $value;
        }

        return HeaderWords::clean(Charset::toUtf8($text, $charset));
    }
}
