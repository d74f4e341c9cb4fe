<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Instance;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\UnreadableVolume;
use Symfony\Component\Filesystem\Filesystem;

/**
 * A file system of a point, checked by the tool that is its own, on a copy that is thrown away. What was in its journal is played back
 * on the copy first, as a mount would; nothing is repaired.
 */
final class FileSystemCheck
{
    public const CLEAN = 'clean';

    public const WRONG = 'wrong';

    public const NOT_CHECKED = 'not checked';

    /** Bytes of a volume that is copied, and of what is in it. */
    private const LARGEST = 1 << 40;

    private const MOST = 8 << 30;

    private const AT_ONCE = 1 << 20;

    /** How the type of a file system begins => commands, of which the last tells: exit status 0 for clean. */
    private const TOOLS = [
        'ext' => [['e2fsck', '-E', 'journal_only', '-y'], ['e2fsck', '-f', '-n']],
        'FAT' => [['fsck.fat', '-n']],
    ];

    private function __construct(public readonly string $result, public readonly string $words)
    {
    }

    public static function of(VolumeOfPoint $volume): self
    {
        $type = $volume->files?->type() ?? '';
        foreach (self::TOOLS as $begins => $commands) {
            if (str_starts_with($type, $begins)) {
                return self::by($commands, $volume);
            }
        }

        return new self(self::NOT_CHECKED, $volume->because ?? "there is no tool for $type");
    }

    /** @param  non-empty-list<non-empty-list<string>>  $commands */
    private static function by(array $commands, VolumeOfPoint $volume): self
    {
        $tool = $commands[0][0];
        if (! VolumeTool::isThere($tool)) {
            return new self(self::NOT_CHECKED, "$tool is not on this machine");
        }
        $copy = Instance::folder('tmp').'/volume-'.bin2hex(random_bytes(6));
        try {
            return self::copy($volume, $copy) ? self::told($commands, $copy) : new self(self::NOT_CHECKED, 'it is too large to be copied');
        } catch (UnreadableImage|UnreadableVolume $unreadable) {
            return new self(self::NOT_CHECKED, "it {$unreadable->getMessage()}");
        } catch (UnableToWrite $unable) {
            return new self(self::NOT_CHECKED, rtrim(lcfirst($unable->getMessage()), '.'));
        } finally {
            (new Filesystem)->remove($copy);
        }
    }

    /** @return bool whether it could be: what is zeros takes no room */
    private static function copy(VolumeOfPoint $volume, string $copy): bool
    {
        $size = $volume->partition->size();
        $left = min(self::MOST, (int) (disk_free_space(dirname($copy)) / 2));
        $to = @fopen($copy, 'xb');
        ($to !== false && chmod($copy, 0600) && ftruncate($to, $size)) || throw UnableToWrite::open($copy, 'The copy that is checked');
        $zeros = str_repeat("\0", self::AT_ONCE);
        for ($at = 0; $size <= self::LARGEST && $at < $size && $left >= 0; $at += strlen($piece)) {
            $piece = $volume->partition->read($at, min(self::AT_ONCE, $size - $at));
            if ($piece !== $zeros) {
                (fseek($to, $at) === 0 && fwrite($to, $piece) === strlen($piece)) || throw UnableToWrite::full($copy);
                $left -= strlen($piece);
            }
        }
        fclose($to);

        return $size <= self::LARGEST && $left >= 0;
    }

    /** @param  non-empty-list<non-empty-list<string>>  $commands */
    private static function told(array $commands, string $copy): self
    {
        foreach ($commands as $command) {
            $done = VolumeTool::run($command, $copy);
        }

        return $done->exit === 0 ? new self(self::CLEAN, '') : new self(self::WRONG, "{$command[0]} says: {$done->said()}");
    }
}
