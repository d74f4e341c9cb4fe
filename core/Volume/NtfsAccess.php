<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** Who may do what with files of NTFS: descriptors that are kept once for all files that have the same, or with a file. */
final class NtfsAccess
{
    private const SECURE = 9;

    /** "$SDS", in UTF-16. */
    private const STREAM = "\$\0S\0D\0S\0";

    /** Each half of a megabyte stands twice. */
    private const STRETCH = 1 << 18;

    private const LARGEST = 64 << 20;

    private const LARGEST_DESCRIPTOR = 65_536;

    /** @var array<int, array{int, int}>|null number => where its descriptor stands, and its bytes */
    private ?array $places = null;

    private ?NtfsStream $stream = null;

    /** @var array<int, AccessList|null> */
    private array $known = [];

    public function __construct(private readonly NtfsRecords $records)
    {
    }

    /**
     * Null where none is kept, or it cannot be read: what cannot be told is not made up.
     *
     * @param  int  $number  of its descriptor; 0 if it has one of its own
     */
    public function of(NtfsFile $file, int $number): ?AccessList
    {
        if ($number === 0) {
            $stream = $file->stream('', NtfsAttribute::SECURITY_DESCRIPTOR);

            return $stream === null ? null : AccessList::of($stream->read(0, self::LARGEST_DESCRIPTOR));
        }
        if (! array_key_exists($number, $this->known)) {
            [$at, $length] = $this->places()[$number] ?? [0, 0];
            $this->known[$number] = $length === 0 ? null : AccessList::of($this->stream?->read($at, $length) ?? '');
        }

        return $this->known[$number];
    }

    /** @return array<int, array{int, int}> */
    private function places(): array
    {
        if ($this->places !== null) {
            return $this->places;
        }
        $this->places = [];
        $this->stream = $this->records->file(self::SECURE)->stream(self::STREAM);
        $size = min(self::LARGEST, $this->stream?->size() ?? 0);
        for ($begins = 0; $begins < $size; $begins += 2 * self::STRETCH) {
            $bytes = $this->stream?->read($begins, self::STRETCH) ?? '';
            for ($at = 0; $at + 20 <= strlen($bytes); $at += ($length + 15) & ~15) {
                ['id' => $id, 'length' => $length] = unpack('x4/Vid/x8/Vlength', $bytes, $at) ?: ['id' => 0, 'length' => 0];
                if ($length < 20 || $length > self::LARGEST_DESCRIPTOR) {
                    break; // nothing stands behind
                }
                $this->places[$id] = [$begins + $at + 20, $length - 20];
            }
        }

        return $this->places;
    }
}
