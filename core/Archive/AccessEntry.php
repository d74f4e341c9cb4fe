<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** One line of an access list (acl(5)). */
final readonly class AccessEntry
{
    /** In the order in which they are written, and looked at. */
    public const TAGS = ['user', 'group', 'mask', 'other'];

    public function __construct(
        /** Whether it is one that a folder hands on to what is made in it. */
        public bool $isDefault,
        /** One of TAGS. */
        public string $tag,
        /** A name or a number; '' for the owner, the owning group, the mask, and all others. */
        public string $who,
        /** Of three letters: "rw-". */
        public string $may,
        /** That of the name where the list was made, if it says so. */
        public ?int $number = null,
    ) {
    }

    /** Null if it is none; of the long form and the short one, with or without the number that some archives add. */
    public static function of(string $text, bool $isDefault = false): ?self
    {
        $parts = '~^(?<default>d(?:efault)?:)?(?<tag>u(?:ser)?|g(?:roup)?|m(?:ask)?|o(?:ther)?):(?<who>[^:\s,#]*):'.
            '(?<may>[r-][w-][x-])(?::(?<number>\d{1,10}))?$~D';
        if (preg_match($parts, $text, $m, PREG_UNMATCHED_AS_NULL) !== 1) {
            return null;
        }
        $tag = self::TAGS[(int) array_search($m['tag'][0], ['u', 'g', 'm', 'o'], true)];
        $who = (string) $m['who'];
        if ($who !== '' && in_array($tag, ['mask', 'other'], true)) {
            return null;
        }

        return new self(
            $isDefault || $m['default'] !== null, $tag, $who, (string) $m['may'], $m['number'] === null ? null : (int) $m['number'],
        );
    }

    public function text(): string
    {
        return ($this->isDefault ? 'default:' : '')."$this->tag:$this->who:$this->may".($this->number === null ? '' : ":$this->number");
    }

    /** For whom it is, without what they may. */
    public function key(): string
    {
        return ($this->isDefault ? 'default:' : '')."$this->tag:$this->who";
    }

    public function bits(): int
    {
        return ($this->may[0] === 'r' ? 4 : 0) | ($this->may[1] === 'w' ? 2 : 0) | ($this->may[2] === 'x' ? 1 : 0);
    }
}
