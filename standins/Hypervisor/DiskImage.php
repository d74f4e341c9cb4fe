<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Symfony\Component\Process\Process;

/** What is done to the images of disks of machines that are off. */
final class DiskImage
{
    /** Bytes of the areas of a mark. */
    public const GRANULARITY = 65_536;

    /** @param  DiskDoor|null  $from  what it is read from where nothing is written to it */
    public static function create(string $image, int $size, ?DiskDoor $from = null): void
    {
        $below = $from === null ? [] : ['-u', '-F', 'raw', '-b', self::url($from)];
        self::run(['qemu-img', 'create', '-q', '-f', 'qcow2', '-o', 'compat=1.1,lazy_refcounts=off', ...$below, $image, (string) $size]);
    }

    /** As an image names what lies below it: whoever opens it reads it whole, as long as it is served. */
    private static function url(DiskDoor $from): string
    {
        return 'nbd+unix:///'.rawurlencode($from->export).'?socket='.str_replace('%2F', '/', rawurlencode($from->socket));
    }

    /** Bytes that a file takes. */
    public static function held(string $file): int
    {
        clearstatcache(true, $file);

        return 512 * (int) (@stat($file)['blocks'] ?? 0);
    }

    /** @return array<string, bool> name => whether it can be believed: one that is in use was not put down in order */
    public static function marks(string $image): array
    {
        $told = json_decode(self::run(['qemu-img', 'info', '--output=json', '-f', 'qcow2', $image]), true);
        $marks = [];
        foreach (is_array($told) ? $told['format-specific']['data']['bitmaps'] ?? [] : [] as $bitmap) {
            $marks[(string) $bitmap['name']] = ! in_array('in-use', $bitmap['flags'], true) && in_array('auto', $bitmap['flags'], true);
        }

        return $marks;
    }

    /** @return array<string, bool> as marks(), of a disk that is open in a machine: name => whether it can be believed */
    public static function marksIn(Qmp $qmp, string $node): array
    {
        $marks = [];
        foreach ($qmp->call('query-named-block-nodes', ['flat' => true]) as $seen) {
            foreach (is_array($seen) && ($seen['node-name'] ?? '') === $node ? $seen['dirty-bitmaps'] ?? [] : [] as $bitmap) {
                $marks[(string) $bitmap['name']] = ! ($bitmap['inconsistent'] ?? false) && ($bitmap['recording'] ?? false);
            }
        }

        return $marks;
    }

    public static function addMark(string $image, string $mark): void
    {
        self::run(['qemu-img', 'bitmap', '--add', '-g', (string) self::GRANULARITY, '-f', 'qcow2', $image, $mark]);
    }

    /** @param  string  $how  "-c" to take one, "-d" to drop it */
    public static function snapshot(string $image, string $how, string $snapshot): void
    {
        self::run(['qemu-img', 'snapshot', $how, $snapshot, $image]);
    }

    /** @param  array<string>  $marks */
    public static function removeMarks(string $image, array $marks): void
    {
        foreach ($marks as $mark) {
            self::run(['qemu-img', 'bitmap', '--remove', '-f', 'qcow2', $image, $mark]);
        }
    }

    /** @param  list<string>  $command */
    private static function run(array $command): string
    {
        $process = new Process($command, '/', null, null, 300);
        $process->run() === 0 || throw HypervisorFailure::because("{$command[0]} {$command[1]}: ".self::said($process));

        return $process->getOutput();
    }

    public static function said(Process $process): string
    {
        return mb_strcut(mb_scrub(trim($process->getErrorOutput())), 0, 500);
    }
}
