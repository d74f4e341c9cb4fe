<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Doubt\ContentTexture;

/**
 * What a path was over a span of points. Two versions with the same packed form are the same version. Trees hold the
 * packed form only, so that a tree of a hundred thousand entries takes a few tens of megabytes.
 */
final readonly class Version
{
    public function __construct(
        public EntryKind $kind,
        /** Bytes of content; -1 where the content is unknown. */
        public int $size,
        /** Nanoseconds since 1970. */
        public int $mtime,
        /** BLAKE2b-256 of the content, 32 bytes; null for what has none, and where it is unknown. */
        public ?string $digest,
        public int $mode,
        public int $uid,
        public int $gid,
        public string $uname,
        public string $gname,
        /** Of a symbolic link. */
        public string $linkTarget = '',
        /** The same for all names of one file with several; 0 for a file with one. */
        public int $linkGroup = 0,
        public bool $sparse = false,
        /** See ContentTexture. */
        public int $texture = 0,
        /** Who may do what with it beyond its mode: see AccessList; '' for no list, and for links, which have none. */
        public string $access = '',
    ) {
    }

    /** A thing that is known to have been there, and no more: its set, or its base, could not be read. */
    public static function unknown(): self
    {
        return new self(EntryKind::File, -1, 0, null, 0, 0, 0, '', '');
    }

    public function isUnknown(): bool
    {
        return $this->kind === EntryKind::File && $this->size < 0;
    }

    /** Whether its content must be read from an archive. */
    public function needsBytes(): bool
    {
        return $this->kind === EntryKind::File && $this->size !== 0;
    }

    /** With no more permissions than these, and none of the list: of a name in it nobody could tell whether it was kept out elsewhere. */
    public function narrowedTo(int $mode): self
    {
        $group = $this->access === '' ? 07 : (AccessList::of($this->access)?->ofGroup() ?? 0);

        return new self(...['mode' => $this->mode & $mode & (07707 | ($group << 3)), 'access' => ''] + get_object_vars($this));
    }

    /** User and group, as chown takes them: names where they are known, else numbers. */
    public function owner(): string
    {
        return ($this->uname === '' ? (string) $this->uid : $this->uname).':'.($this->gname === '' ? (string) $this->gid : $this->gname);
    }

    public function pack(): string
    {
        return self::join($this->kind->value, $this->size, $this->mtime, $this->digest, $this->attributes());
    }

    /** What the catalog keeps in one column. */
    public function attributes(): string
    {
        return pack('VVVJC', $this->mode, $this->uid, $this->gid, $this->linkGroup, ($this->texture << 1) | ($this->sparse ? 1 : 0)).
            chr(min(255, strlen($this->uname))).
            substr($this->uname, 0, 255).
            chr(min(255, strlen($this->gname))).
            substr($this->gname, 0, 255).
            ($this->kind === EntryKind::Symlink ? $this->linkTarget : $this->access);
    }

    public static function join(string $kind, int $size, int $mtime, ?string $digest, string $attributes): string
    {
        return $kind.pack('JJ', $size, $mtime).($digest === null ? "\0" : "\1".$digest).$attributes;
    }

    public static function kindOf(string $packed): string
    {
        return $packed[0];
    }

    /** Bytes of content, as folder totals count them: nothing for what is no file or unknown. */
    public static function bytesOf(string $packed): int
    {
        return $packed[0] === 'f' ? max(0, self::int64($packed, 1)) : 0;
    }

    /** The digest of a file with content and one name; null for everything else. */
    public static function plainDigest(string $packed): ?string
    {
        return $packed[0] === 'f' &&
            $packed[17] === "\1" &&
            self::int64($packed, 1) > 0 &&
            substr_compare($packed, "\0\0\0\0\0\0\0\0", 62, 8) === 0
            ? substr($packed, 18, 32)
            : null;
    }

    public static function textureOf(string $packed): ContentTexture
    {
        return ContentTexture::of(ord($packed[($packed[17] === "\1" ? 50 : 18) + 20]) >> 1);
    }

    /** Whether it has an access list, told without taking it apart: many are asked. */
    public static function hasList(string $packed): bool
    {
        $at = ($packed[17] === "\1" ? 50 : 18) + 21; // the length of the user's name
        $at += 1 + ord($packed[$at]); // of the group's

        return $packed[0] !== EntryKind::Symlink->value && strlen($packed) > $at + 1 + ord($packed[$at]);
    }

    /** The same, packed, as if it held nothing. */
    public static function withoutContent(string $packed): string
    {
        return substr_replace($packed, pack('J', 0), 1, 8);
    }

    /** @return array{kind: string, size: int, mtime: int, digest: ?string, attributes: string} */
    public static function columns(string $packed): array
    {
        $known = $packed[17] === "\1";

        return [
            'kind' => $packed[0],
            'size' => self::int64($packed, 1),
            'mtime' => self::int64($packed, 9),
            'digest' => $known ? substr($packed, 18, 32) : null,
            'attributes' => substr($packed, $known ? 50 : 18),
        ];
    }

    public static function unpack(string $packed): self
    {
        return self::fromColumns(...self::columns($packed));
    }

    public static function fromColumns(string $kind, int $size, int $mtime, ?string $digest, string $attributes): self
    {
        $numbers = unpack('Vmode/Vuid/Vgid/Jgroup/Cflags/Cuname', $attributes);
        assert(is_array($numbers));
        $at = 22 + $numbers['uname'];
        $gname = ord($attributes[$at]);
        $of = EntryKind::from($kind);
        $rest = substr($attributes, $at + 1 + $gname);

        return new self(
            $of,
            $size,
            $mtime,
            $digest,
            $numbers['mode'],
            $numbers['uid'],
            $numbers['gid'],
            substr($attributes, 22, $numbers['uname']),
            substr($attributes, $at + 1, $gname),
            $of === EntryKind::Symlink ? $rest : '',
            $numbers['group'],
            ($numbers['flags'] & 1) === 1,
            $numbers['flags'] >> 1,
            $of === EntryKind::Symlink ? '' : $rest,
        );
    }

    private static function int64(string $bytes, int $at): int
    {
        return unpack('J', $bytes, $at)[1] ?? 0;
    }
}
