<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use Kaiseki\Core\Mail\Charset;
use Kaiseki\Core\Mail\HeaderWords;

/** A property of a calendar or a contact: one line, unfolded (RFC 5545, section 3.1; RFC 6350, section 3.3; vCard 2.1). */
final readonly class ContentLine
{
    private const NAME = '/^(?:([A-Za-z0-9-]{1,100})\.)?([A-Za-z0-9-]{1,100})(?=[;:])/';

    private const PARAMETER = '/\G;([^:;="]{1,100}+)(?:=((?:"[^"]*+"|[^":;,]++)?(?:,(?:"[^"]*+"|[^":;,]*+))*+))?/';

    private const MOST_PARAMETERS = 100;

    /** Those whose value has parts with semicolons between them, and those that are a list. */
    private const PARTS = ['N', 'ADR', 'ORG', 'GEO', 'GENDER', 'CLIENTPIDMAP', 'REQUEST-STATUS'];

    private const LISTS = ['CATEGORIES', 'RESOURCES', 'NICKNAME', 'EXDATE', 'RDATE'];

    /** @param  array<string, list<string>>  $parameters  name in capitals => values */
    private function __construct(public string $group, public string $name, public array $parameters, public string $raw)
    {
    }

    /** Null if it is none. */
    public static function parse(string $line): ?self
    {
        if (preg_match(self::NAME, $line, $name) !== 1) {
            return null;
        }
        $parameters = [];
        $at = strlen($name[0]);
        for ($number = 0; $number < self::MOST_PARAMETERS && preg_match(self::PARAMETER, $line, $m, 0, $at) === 1; $number++) {
            $at += strlen($m[0]);
            [$key, $values] = isset($m[2]) ? [strtoupper(trim($m[1])), self::values($m[2])] : self::bare(trim($m[1]));
            $parameters[$key] = [...$parameters[$key] ?? [], ...$values];
        }
        if (($line[$at] ?? '') !== ':') {
            return null;
        }

        return new self(strtolower($name[1]), strtoupper($name[2]), $parameters, substr($line, $at + 1));
    }

    /**
     * A parameter without a value, as vCard 2.1 has them.
     *
     * @return array{string, list<string>}
     */
    private static function bare(string $word): array
    {
        return in_array(strtoupper($word), ['QUOTED-PRINTABLE', 'BASE64', '8BIT', '7BIT'], true) ? ['ENCODING', [$word]] : ['TYPE',
            [$word]];
    }

    /** @return list<string> */
    private static function values(string $list): array
    {
        preg_match_all('/(?:^|,)(?:"([^"]*+)"|([^,]*+))/', $list, $found, PREG_SET_ORDER);

        return array_map(fn (array $m): string => $m[2] ?? $m[1], $found);
    }

    public function parameter(string $name): string
    {
        return HeaderWords::clean(Charset::toUtf8(mb_strcut($this->parameters[$name][0] ?? '', 0, 1_000), ''));
    }

    /** Its value without what quoted-printable (vCard 2.1) made of it. */
    public function value(): string
    {
        return strcasecmp($this->parameter('ENCODING'), 'QUOTED-PRINTABLE') === 0 ? quoted_printable_decode($this->raw) : $this->raw;
    }

    /** What a person reads: UTF-8, lines ended by newlines. */
    public function text(): string
    {
        return self::shown(self::unescaped($this->value()), $this->parameter('CHARSET'));
    }

    /** @return list<string> of a value with parts; those of a list are separated by commas */
    public function parts(string $separator = ';'): array
    {
        $parts = preg_split('/(?:\\\\.|[^\\\\'.$separator.'])*+\K'.$separator.'/s', $this->value()) ?: [$this->value()];

        return array_map(fn (string $part): string => self::shown(self::unescaped($part), $this->parameter('CHARSET')), $parts);
    }

    /** Bytes that stand in it as base64, or after "data:…;base64,"; '' if there are none. */
    public function binary(): string
    {
        $encoding = strtoupper($this->parameter('ENCODING'));
        $coded = in_array($encoding, ['B', 'BASE64'], true) ? $this->raw : '';
        if ($coded === '' && preg_match('~^data:[^,]{0,200};base64(?:,|\\\\,)~', $this->raw, $m) === 1) {
            $coded = substr($this->raw, strlen($m[0]));
        }

        return (string) base64_decode($coded);
    }

    /** The same for values that mean the same: however it is folded, in whatever order and case parameters stand. */
    public function canonical(): string
    {
        $parameters = [];
        foreach ($this->parameters as $name => $values) {
            if ($name === 'CHARSET' || ($name === 'ENCODING' && strcasecmp($values[0], 'QUOTED-PRINTABLE') === 0)) {
                continue;
            }
            $values = $name === 'TYPE' || $name === 'ENCODING' ? array_map(strtoupper(...), $values) : $values;
            $values = $name === 'ENCODING' ? [strtr($values[0], ['BASE64' => 'B'])] : array_values(array_unique($values));
            sort($values);
            $parameters[] = "$name=".implode(',', $values);
        }
        sort($parameters);

        return ($this->group === '' ? '' : "{$this->group}.")."$this->name;".implode(';', $parameters).':'.$this->canonicalValue();
    }

    private function canonicalValue(): string
    {
        if (in_array($this->name, self::PARTS, true)) {
            return rtrim(implode("\1", $this->parts()), "\1");
        }
        if (in_array($this->name, self::LISTS, true)) {
            return implode("\1", $this->parts(','));
        }
        if ($this->name === 'RRULE' || $this->name === 'EXRULE') {
            $parts = explode(';', strtoupper($this->raw));
            sort($parts);

            return implode(';', $parts);
        }

        return isset($this->parameters['ENCODING']) && $this->binary() !== '' ? $this->binary() : $this->text();
    }

    private static function unescaped(string $value): string
    {
        return (string) preg_replace_callback(
            '/\\\\([nN\\\\;,:])/',
            fn (array $m): string => strtolower($m[1]) === 'n' ? "\n" : $m[1],
            $value,
        );
    }

    /** Without control characters and marks that turn the writing direction. */
    private static function shown(string $value, string $charset): string
    {
        $lines = explode("\n", str_replace("\r\n", "\n", Charset::toUtf8($value, $charset)));

        return implode("\n", array_map(HeaderWords::clean(...), $lines));
    }
}
