<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;

/**
 * What is looked for among items, as one line: words, "words one after the other", from: to: cc: subject: name: (of an attachment) place:
 * kind:message|appointment|task|journal|contact folder: mailbox: id: before: after: on: is:read|unread|flagged|answered|draft|deleted|gone,
 * attachments>0, size>1M; with - before it for not. Days are those on which a message was sent, or an appointment takes place.
 */
final readonly class ItemQuery
{
    public const LONGEST = 1_000;

    private const MOST_TERMS = 30;

    private const STATES = ['read' => 'S', 'flagged' => 'F', 'answered' => 'R', 'draft' => 'D', 'deleted' => 'T'];

    private const PIECE = '/\G\s*(-?)(?:([a-z]+)(:|>=|<=|>|<|=))?(?:"([^"]*)"|([^\s"]+))/u';

    /**
     * @param  list<ItemTerm>  $terms
     * @param  list<array{string, string, int}>  $numbers  what is compared (attachments, size), how, with what
     * @param  array<string, bool>  $flags  letter of MaildirName::FLAGS => whether it must be there
     */
    private function __construct(
        public array $terms = [],
        /** A part of its name, any case. */
        public string $folder = '',
        public string $mailbox = '',
        public string $messageId = '',
        /** Seconds since 1970, exclusive. */
        public ?int $before = null,
        /** Inclusive. */
        public ?int $after = null,
        public array $numbers = [],
        public array $flags = [],
        /** Whether it must be gone at the newest point; null where that does not matter. */
        public ?bool $isGone = null,
        /** @var list<ItemSort> any of them; none for all */
        public array $sorts = [],
    ) {
    }

    /**
     * @param  string  $zone  in which its days begin
     *
     * @throws InvalidArgumentException if it means nothing
     */
    public static function parse(string $line, string $zone = 'UTC'): self
    {
        $line = mb_scrub(trim($line), 'UTF-8');
        if (strlen($line) > self::LONGEST) {
            throw new InvalidArgumentException('A search has at most '.self::LONGEST.' characters.');
        }
        $said = [];
        for ($at = 0; $at < strlen($line); $at += strlen($m[0])) {
            if (preg_match(self::PIECE, $line, $m, PREG_UNMATCHED_AS_NULL, $at) !== 1) {
                throw new InvalidArgumentException('A quotation mark is open: '.mb_strcut($line, $at, 40));
            }
            $said = self::with($said, $m[1] === '-', $m[2] ?? '', $m[3] ?? '', $m[4] ?? $m[5] ?? '', isset($m[4]), $zone);
        }
        if (count($said['terms'] ?? []) > self::MOST_TERMS) {
            throw new InvalidArgumentException('A search has at most '.self::MOST_TERMS.' words.');
        }

        return new self(...$said);
    }

    public function isEmpty(): bool
    {
        return $this == new self;
    }

    /**
     * @param  array<string, mixed>  $said
     * @return array<string, mixed> with one thing more
     *
     * @throws InvalidArgumentException
     */
    private static function with(array $said, bool $not, string $name, string $sign, string $value, bool $isQuoted, string $zone): array
    {
        $field = ItemField::tryFrom($name);
        if ($name === '' || $field !== null) {
            return self::withTerm($said, $field, $not, $value, $isQuoted);
        }
        if ($name === 'attachments' || $name === 'size') {
            $said['numbers'][] = [$name, $sign === ':' ? '=' : $sign, self::number($name, $value)];

            return $said;
        }
        if ($not && $name !== 'is') {
            throw new InvalidArgumentException(
                "\"-$name:\" means nothing; - stands before words, from:, to:, cc:, subject:, name:, place: and is:.",
            );
        }

        return match ($name) {
            'folder', 'mailbox' => [$name => $value] + $said,
            'id' => ['messageId' => trim($value, '<>')] + $said,
            'before', 'after', 'on' => self::withDay($said, $name, $value, $zone),
            'is' => self::withState($said, $not, $value),
            'kind' => self::withSort($said, $value),
            default => throw new InvalidArgumentException(
                "\"$name:\" is nothing that is looked for. There are from, to, cc, subject, name, folder, mailbox, id, before, after, on, ".
                    'is, attachments and size; words with a colon stand between quotation marks.',
            ),
        };
    }

    /**
     * @param  array<string, mixed>  $said
     * @return array<string, mixed>
     */
    private static function withTerm(array $said, ?ItemField $field, bool $not, string $value, bool $isQuoted): array
    {
        $words = SearchWords::of($value);
        if ($words !== []) {
            $said['terms'][] = new ItemTerm($field, $words, $isQuoted || count($words) > 1, $not);
        }

        return $said;
    }

    /**
     * @param  array<string, mixed>  $said
     * @return array<string, mixed>
     */
    private static function withDay(array $said, string $name, string $value, string $zone): array
    {
        $day = preg_match('/^\d{4}-\d\d-\d\d$/D', $value) === 1
            ? DateTimeImmutable::createFromFormat('!Y-m-d', $value, new DateTimeZone($zone))
            : false;
        if ($day === false || $day->format('Y-m-d') !== $value) {
            throw new InvalidArgumentException("\"$value\" is no day. Write it as 2026-11-02.");
        }
        $begin = $day->getTimestamp();
        $end = $day->modify('+1 day')->getTimestamp();

        return match ($name) {
            'before' => ['before' => $begin] + $said,
            'after' => ['after' => $end] + $said,
            default => ['after' => $begin, 'before' => $end] + $said,
        };
    }

    /**
     * @param  array<string, mixed>  $said
     * @return array<string, mixed>
     */
    private static function withState(array $said, bool $not, string $value): array
    {
        if ($value === 'gone') {
            return ['isGone' => ! $not] + $said;
        }
        $isUnread = $value === 'unread';
        $flag = self::STATES[$isUnread ? 'read' : $value] ??
            throw new InvalidArgumentException(
                "\"is:$value\" means nothing. There are ".implode(', ', array_keys(self::STATES)).', unread, gone.',
            );
        $said['flags'][$flag] = $not === $isUnread;

        return $said;
    }

    /**
     * @param  array<string, mixed>  $said
     * @return array<string, mixed>
     */
    private static function withSort(array $said, string $value): array
    {
        $said['sorts'][] = ItemSort::named($value) ??
            throw new InvalidArgumentException("\"kind:$value\" means nothing. There are message, appointment, task, journal and contact.");

        return $said;
    }

    private static function number(string $name, string $value): int
    {
        if (preg_match('/^(\d{1,12})([kKmMgG]?)$/D', $value, $m) !== 1 || ($name === 'attachments' && $m[2] !== '')) {
            throw new InvalidArgumentException(
                $name === 'size' ? "\"$value\" is no size. Write it as 200k or 3M." : "\"$value\" is no number of attachments.",
            );
        }

        return (int) $m[1] * ['' => 1, 'k' => 1_000, 'm' => 1_000_000, 'g' => 1_000_000_000][strtolower($m[2])];
    }
}
