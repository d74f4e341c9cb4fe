<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** The name of a message's file in a Maildir: what stays of it when the message is moved, and the flags behind it (common practice). */
final readonly class MaildirName
{
    /** Letter => flag of RFC 9051, section 2.3.2. */
    public const FLAGS = ['D' => '\Draft', 'F' => '\Flagged', 'P' => '$Forwarded', 'R' => '\Answered', 'S' => '\Seen', 'T' => '\Deleted'];

    /** @param  list<string>  $keywords  letters a to z, whose meaning stands beside the folder */
    private function __construct(public string $base, public string $flags, public array $keywords)
    {
    }

    public static function of(string $name): self
    {
        $cut = strrpos($name, ':2,');
        $base = $cut === false ? $name : substr($name, 0, $cut);
        $letters = $cut === false ? '' : substr($name, $cut + 3);
        $flags = implode('', array_filter(array_keys(self::FLAGS), fn (string $flag): bool => str_contains($letters, $flag)));
        preg_match_all('/[a-z]/', (string) strtok($letters, ','), $keywords);

        return new self((string) preg_replace('/(,[SW]=\d+)+$/', '', $base), $flags, $keywords[0]);
    }

    /**
     * @param  array<string, string>  $meanings  letter => keyword
     * @return list<string> as a mail server knows them
     */
    public function imapFlags(array $meanings = []): array
    {
        $flags = array_map(fn (string $letter): string => self::FLAGS[$letter], $this->flags === '' ? [] : str_split($this->flags));
        foreach ($this->keywords as $letter) {
            $keyword = $meanings[$letter] ?? '';
            if (self::isKeyword($keyword)) {
                $flags[] = $keyword;
            }
        }

        return $flags;
    }

    /** Whether a server takes it as one: an atom (RFC 9051, section 9). */
    public static function isKeyword(string $keyword): bool
    {
        return preg_match('/^[^\x00-\x20(){%*"\\\\\]\x7f-\xff]{1,100}$/D', $keyword) === 1;
    }

    /**
     * The keywords that a folder's letters stand for, from the file "dovecot-keywords" beside its messages: lines "0 keyword".
     *
     * @return array<string, string> letter => keyword
     */
    public static function meanings(string $file): array
    {
        preg_match_all('/^(\d{1,2}) (\S+)$/m', substr($file, 0, 1 << 16), $lines, PREG_SET_ORDER);
        $meanings = [];
        foreach ($lines as [, $number, $keyword]) {
            if ($number < 26) {
                $meanings[chr(ord('a') + (int) $number)] = $keyword;
            }
        }

        return $meanings;
    }
}
