<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** The table of files of NTFS: records of one size, of which a file has one, or several. */
final class NtfsRecords
{
    private const IN_USE = 1;

    private const FOLDER = 2;

    private const END = 0xFFFFFFFF;

    /** Bytes of a sector, at whose end a record is marked whatever the sectors of the disk are. */
    private const STRIDE = 512;

    private const LARGEST_LIST = 1 << 18;

    private const NUMBER = 0xFFFFFFFFFFFF;

    /** Files that are remembered. */
    private const KEPT = 64;

    private NtfsStream $table;

    /** @var array<int, NtfsFile> */
    private array $files = [];

    public function __construct(public readonly NtfsGeometry $geometry)
    {
        $bytes = $geometry->disk->read($geometry->table * $geometry->cluster, $geometry->record);
        [, $attributes] = $this->parse($bytes, 0);
        // Of a table in many pieces the first of them says where the records are that know of the rest.
        $first = (new NtfsFile(false, $attributes, $geometry))->stream();
        $this->table = $first ?? throw UnreadableVolume::damaged('its table of files is nowhere');
        $this->table = $this->read(0)->stream() ?? $this->table;
    }

    /** @throws UnreadableVolume if there is none of that number */
    public function file(int $number): NtfsFile
    {
        if (! isset($this->files[$number])) {
            count($this->files) < self::KEPT || $this->files = [];
            $this->files[$number] = $this->read($number);
        }

        return $this->files[$number];
    }

    private function read(int $number): NtfsFile
    {
        [$flags, $attributes] = $this->parse($this->bytes($number), 0);
        if (($flags & self::IN_USE) === 0) {
            throw UnreadableVolume::damaged("the file $number is not there any more");
        }
        foreach ($attributes as $attribute) {
            if ($attribute->type === NtfsAttribute::LIST) {
                $attributes = [...$attributes, ...$this->elsewhere($number, $attribute)];
                break;
            }
        }

        return new NtfsFile(($flags & self::FOLDER) !== 0, $attributes, $this->geometry);
    }

    /** @return list<NtfsAttribute> that stand in other records of a file */
    private function elsewhere(int $number, NtfsAttribute $list): array
    {
        $stream = new NtfsStream($this->geometry, [$list]);
        if ($stream->size() > self::LARGEST_LIST) {
            throw UnreadableVolume::damaged("the file $number has more attributes than one can have");
        }
        $bytes = $stream->read(0, $stream->size());
        $others = [];
        for ($at = 0; $at + 26 <= strlen($bytes); $at += max(26, $length)) {
            ['length' => $length, 'record' => $record] = unpack('x4/vlength/x10/Precord', $bytes, $at) ?: ['length' => 0, 'record' => 0];
            ($record & self::NUMBER) === $number || $others[$record & self::NUMBER] = true;
        }
        $found = [];
        foreach (array_keys($others) as $other) {
            array_push($found, ...$this->parse($this->bytes($other), $number)[1]);
        }

        return $found;
    }

    private function bytes(int $number): string
    {
        $bytes = $this->table->read($number * $this->geometry->record, $this->geometry->record);

        return strlen($bytes) === $this->geometry->record ? $bytes : throw UnreadableVolume::damaged("there is no file $number");
    }

    /**
     * @param  int  $base  the file whose further record it is; 0 for a file's own
     * @return array{int, list<NtfsAttribute>} flags, and its attributes
     */
    private function parse(string $bytes, int $base): array
    {
        $bytes = self::mended($bytes, 'FILE');
        $head = unpack('vattributes/vflags/Vused/x4/Pbase', $bytes, 20);
        assert($head !== false);
        if (($head['base'] & self::NUMBER) !== $base) {
            throw UnreadableVolume::damaged("a record is not that of the file $base");
        }
        $attributes = [];
        $end = min(strlen($bytes), $head['used']);
        for ($at = $head['attributes']; $at + 8 <= $end; $at += $length) {
            ['type' => $type, 'length' => $length] = unpack('Vtype/Vlength', $bytes, $at) ?: ['type' => 0, 'length' => 0];
            if ($type === self::END) {
                break;
            }
            if ($length < 24 || $at + $length > $end) {
                throw UnreadableVolume::damaged('an attribute is longer than its record');
            }
            $attributes[] = NtfsAttribute::of(substr($bytes, $at, $length));
        }

        return [$head['flags'], $attributes];
    }

    /**
     * A record as it was before it was written: the last two bytes of each sector stand in front, so that a torn one is seen.
     *
     * @throws UnreadableVolume if it is torn, or is no such record
     */
    public static function mended(string $bytes, string $magic): string
    {
        $marks = strlen($bytes) >= 48 ? unpack('vat/vcount', $bytes, 4) : false;
        $sectors = intdiv(strlen($bytes), self::STRIDE);
        if ($marks === false || ! str_starts_with($bytes, $magic) || $marks['count'] !== $sectors + 1
            || strlen($bytes) < $marks['at'] + 2 * $marks['count']) {
            throw UnreadableVolume::damaged("a record is no $magic");
        }
        $mark = substr($bytes, $marks['at'], 2);
        for ($i = 1; $i <= $sectors; $i++) {
            if (substr($bytes, $i * self::STRIDE - 2, 2) !== $mark) {
                throw UnreadableVolume::damaged('a record was written in part only');
            }
            $bytes = substr_replace($bytes, substr($bytes, $marks['at'] + 2 * $i, 2), $i * self::STRIDE - 2, 2);
        }

        return $bytes;
    }
}
