<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The text in which LVM keeps what a volume group is: sections in braces, and names with numbers, texts or lists (lvm.conf(5)). */
final class LvmText
{
    private const LONGEST = 4 << 20;

    private const DEEPEST = 8;

    private const MOST = 200_000;

    /** @var list<string> */
    private readonly array $tokens;

    private int $at = 0;

    private function __construct(string $text)
    {
        $word = '/#[^\n]*|"(?:[^"\\\\]|\\\\.)*"|[A-Za-z0-9_.+-]+|[{}\[\]=,]/';
        preg_match_all($word, rtrim($text, "\0"), $found);
        $this->tokens = array_values(array_filter($found[0], fn (string $token): bool => $token[0] !== '#'));
    }

    /**
     * @return array<string, mixed> name => number, text, list of both, or what stands in its braces, likewise
     *
     * @throws UnreadableVolume
     */
    public static function parse(string $text): array
    {
        strlen($text) <= self::LONGEST || throw self::broken();
        $reader = new self($text);
        count($reader->tokens) <= self::MOST || throw self::broken();

        return $reader->section(0);
    }

    private static function broken(): UnreadableVolume
    {
        return UnreadableVolume::damaged('what it says of its volume group cannot be read');
    }

    /** @return array<string, mixed> */
    private function section(int $depth): array
    {
        $depth <= self::DEEPEST || throw self::broken();
        $section = [];
        while (isset($this->tokens[$this->at]) && $this->tokens[$this->at] !== '}') {
            $name = $this->next();
            $sign = $this->next();
            if ($sign === '{') {
                $section[$name] = $this->section($depth + 1);
                $this->next() === '}' || throw self::broken();
            } else {
                $sign === '=' || throw self::broken();
                $section[$name] = $this->value();
            }
        }

        return $section;
    }

    /** @return int|string|list<int|string> */
    private function value(): int|string|array
    {
        $token = $this->next();
        if ($token !== '[') {
            return self::plain($token);
        }
        $list = [];
        while (($token = $this->next()) !== ']') {
            $token === ',' || $list[] = self::plain($token);
        }

        return $list;
    }

    private static function plain(string $token): int|string
    {
        return match (true) {
            $token[0] === '"' => stripslashes(substr($token, 1, -1)),
            preg_match('/^-?\d{1,18}$/D', $token) === 1 => (int) $token,
            default => throw self::broken(),
        };
    }

    private function next(): string
    {
        return $this->tokens[$this->at++] ?? throw self::broken();
    }
}
