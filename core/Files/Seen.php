<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** What stands at a path, told together with others. */
final readonly class Seen
{
    /** Its digest too, if it is a file. */
    public const DIGEST = 1;

    /** Its content too, if it is a small file and comes easily. */
    public const BYTES = 2;

    /** Its access list too. */
    public const ACCESS = 4;

    public function __construct(
        public string $path,
        /** Null if nothing stands there. */
        public ?Status $status,
        /** Where a link leads. */
        public string $link = '',
        /** BLAKE2b-256; null if it was not wanted, or could not be read. */
        public ?string $digest = null,
        /** Null where it is to be read for itself. */
        public ?string $bytes = null,
        /** @var array{string, string}|null names of its owner and group there; null where those of this machine hold */
        public ?array $owner = null,
        /** @var array<string, string> its attributes, as TarEntry::$extended has them, where they are known */
        public array $extended = [],
        /** Its access list, see Look::access(); null if it was not wanted either. */
        public ?string $access = null,
    ) {
    }

    public static function by(Look $look, string $path, int $want): self
    {
        $status = $look->status($path);

        return new self(
            $path,
            $status,
            $status?->type === Status::SYMLINK ? $look->readLink($path) : '',
            ($want & self::DIGEST) !== 0 && $status?->type === Status::FILE ? $look->digest($path, $status->size) : null,
            access: match (true) {
                ($want & self::ACCESS) === 0 || $status === null => null,
                $status->type === Status::SYMLINK => '',
                default => $look->access($path, $status->type === Status::FOLDER),
            },
        );
    }
}
