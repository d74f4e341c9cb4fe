<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\Disk;

/**
 * NTFS 3, as the "NTFS Documentation" of the Linux-NTFS project describes it, with what Microsoft has published of it: reparse points
 * ([MS-FSCC] 2.1.2), compression ([MS-XCA] 2.5), access lists ([MS-DTYP] 2.4, 2.5.1).
 */
final class Ntfs implements FileSystem
{
    private const LOG = 2;

    private const VOLUME = 3;

    private const ROOT = 5;

    /** Numbers of files that are the file system's own. */
    private const OWN = 24;

    private const IS_DIRTY = 1;

    private const READ_ONLY = 0x1;

    /** Between 1601 and 1970, in tenths of microseconds. */
    private const EPOCH = 116_444_736_000_000_000;

    /** Bytes of streams beside the content of a file that come along with it. */
    private const LARGEST_STREAMS = 65_536;

    private readonly NtfsRecords $records;

    private readonly NtfsAccess $access;

    private function __construct(Disk $disk, string $boot)
    {
        $this->records = new NtfsRecords(NtfsGeometry::of($disk, $boot));
        $this->access = new NtfsAccess($this->records);
    }

    /** Null if a volume holds no such file system. */
    public static function on(Disk $disk): ?self
    {
        $boot = $disk->read(0, 512);

        return strlen($boot) === 512 && substr($boot, 3, 8) === 'NTFS    ' ? new self($disk, $boot) : null;
    }

    public function type(): string
    {
        return 'NTFS';
    }

    public function label(): string
    {
        return self::text($this->records->file(self::VOLUME)->value(NtfsAttribute::VOLUME_NAME) ?? '');
    }

    public function losses(): array
    {
        $losses = ['NTFS has access lists and no modes: they come along as text (SDDL) in the attribute user.sddl.'];
        $facts = $this->records->file(self::VOLUME)->value(NtfsAttribute::VOLUME_INFORMATION) ?? '';
        $isDirty = strlen($facts) >= 12 && ((unpack('v', $facts, 10)[1] ?? 0) & self::IS_DIRTY) !== 0;
        if ($isDirty || ! $this->isLogClosed()) {
            $losses[] = 'It was in use: what its log has is not played back, and what was written last may be missing.';
        }

        return $losses;
    }

    /** Whether its log says that it was put down in order: nobody uses it, or it is empty. */
    private function isLogClosed(): bool
    {
        $page = $this->records->file(self::LOG)->stream()?->read(0, 4096) ?? '';
        if (! str_starts_with($page, 'RSTR')) {
            return trim($page, "\xff") === '';
        }
        $area = unpack('v', $page, 24)[1] ?? 0;
        $fields = strlen($page) >= $area + 16 ? unpack('vclient/vflags', $page, $area + 12) : false;

        return $fields !== false && ($fields['client'] === 0xFFFF || ($fields['flags'] & 2) !== 0);
    }

    public function root(): FoundFile
    {
        return $this->found(self::ROOT);
    }

    public function children(FoundFile $folder): iterable
    {
        foreach ($this->names($folder) as $name => $node) {
            yield (string) $name => $this->found($node);
        }
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        foreach ($this->names($folder) as $found => $node) {
            if ((string) $found === $name) {
                return $this->found($node);
            }
        }

        return null;
    }

    /** @return iterable<array-key, int> name => number of its file */
    private function names(FoundFile $folder): iterable
    {
        $file = $this->records->file($folder->node);
        if ($folder->version->kind !== EntryKind::Folder) {
            return;
        }
        foreach (NtfsFolder::names($file, $this->records->geometry) as $units => $node) {
            $name = self::text((string) $units);
            if ($folder->node === self::ROOT && $node < self::OWN) {
                continue;
            }
            Posix::refuseOdd($name);
            yield $name => $node;
        }
    }

    public function content(FoundFile $file): iterable
    {
        return $this->records->file($file->node)->stream()?->content() ?? [];
    }

    private function found(int $node): FoundFile
    {
        $file = $this->records->file($node);
        $facts = $file->value(NtfsAttribute::STANDARD_INFORMATION) ?? throw UnreadableVolume::damaged("the file $node has no times");
        $fields = unpack('x8/Pmodified/x16/Vattributes', str_pad($facts, 72, "\0"));
        assert($fields !== false);
        $security = strlen($facts) >= 56 ? unpack('V', $facts, 52)[1] ?? 0 : 0;
        $link = NtfsLink::target($file);
        $kind = match (true) {
            $link !== null => EntryKind::Symlink,
            $file->isFolder => EntryKind::Folder,
            default => EntryKind::File,
        };
        $access = $this->access->of($file, $security);
        $links = $kind === EntryKind::File ? $file->names() : 1;

        return new FoundFile($node, new Version(
            $kind,
            $kind === EntryKind::File ? $file->stream()?->size() ?? 0 : 0,
            self::nanoseconds($fields['modified']),
            null,
            $kind === EntryKind::Folder ? 0755 : (($fields['attributes'] & self::READ_ONLY) !== 0 ? 0444 : 0644),
            0,
            0,
            $access->owner ?? '',
            $access->group ?? '',
            $link ?? '',
            $links > 1 ? $node : 0,
        ), ($access === null ? [] : ['SCHILY.xattr.user.sddl' => $access->sddl]) + self::streams($file));
    }

    /** @return array<string, string> small streams beside its content, as attributes, which is how other systems show them */
    private static function streams(NtfsFile $file): array
    {
        $found = [];
        $left = self::LARGEST_STREAMS;
        foreach ($file->streamNames() as $units) {
            $stream = $file->stream($units);
            if ($stream !== null && $stream->size() <= $left) {
                $bytes = implode('', [...$stream->content()]);
                $found['SCHILY.xattr.user.'.self::text($units)] = $bytes;
                $left -= strlen($bytes);
            }
        }

        return $found;
    }

    private static function nanoseconds(int $filetime): int
    {
        $tenths = $filetime < 0 ? PHP_INT_MAX : $filetime - self::EPOCH; // unsigned: after the year 30,000

        return max(intdiv(PHP_INT_MIN, 100), min(intdiv(PHP_INT_MAX, 100), $tenths)) * 100;
    }

    /** Names are UTF-16; halves of a pair that stand alone become three bytes each, so that two names are never one. */
    private static function text(string $units): string
    {
        if (mb_check_encoding($units, 'UTF-16LE')) {
            return (string) mb_convert_encoding($units, 'UTF-8', 'UTF-16LE');
        }
        $text = '';
        foreach (str_split($units, 2) as $unit) {
            $code = unpack('v', str_pad($unit, 2, "\0"))[1] ?? 0;
            $text .= $code >= 0xD800 && $code < 0xE000
                ? chr(0xE0 | $code >> 12).chr(0x80 | $code >> 6 & 0x3F).chr(0x80 | $code & 0x3F)
                : mb_chr($code, 'UTF-8');
        }

        return $text;
    }
}
