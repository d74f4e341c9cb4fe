<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Disks\VolumeOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Told;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Catalog\VersionRow;
use App\Trees\Run\PathInJson;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;
use Symfony\Component\Console\Input\InputInterface;

/** `browse` for a machine: its volumes, and the folders on them, straight from the images. */
final class MachineBrowse
{
    public static function told(Workload $workload, InputInterface $input): Told
    {
        $at = Instant::parse(
            (string) ($input->getOption('at') ?? throw new InvalidArgumentException('Say with --at which moment is wanted.')),
        );
        $points = new Points($workload);
        $point = $points->lastBefore($at) ?? throw CannotBring::because('There is no point at or before that moment.');
        $tree = new MachineTree($points, $point);
        $path = EntryPath::of((string) $input->getOption('path'));
        if ($path === '') {
            return self::volumes($point->name, $tree->volumes());
        }
        [$volume, $folder] = $tree->find($path);
        $rows = [];
        try {
            foreach ($volume->files?->children($folder) ?? [] as $name => $file) {
                $rows[(string) $name] = self::row((string) $name, $file);
            }
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            throw CannotBring::because("The volume {$volume->name} {$unreadable->getMessage()}.");
        }
        ksort($rows, SORT_STRING);

        return new Told(
            KaisekiCommand::DONE,
            [
                'point' => $point->name,
                'path' => PathInJson::of("/$path")['path'],
                'entries' => array_values($rows),
                'losses' => $volume->files?->losses() ?? [],
            ],
            fn (): array => [
                ...array_map(
                    fn (array $row): string => sprintf('%-8s %s %12s  %s  %s', $row['kind'], $row['mode'], number_format($row['size']),
                        $row['mtime'], Shown::name($row['name'])),
                    array_values($rows),
                ),
                ...$volume->files?->losses() ?? [],
                Words::count(count($rows), 'entry', 'entries').'.',
            ],
        );
    }

    /** @return array<string, mixed> */
    private static function row(string $name, FoundFile $file): array
    {
        $shown = PathInJson::of($name);

        return ['name' => $shown['path']] + array_diff_key($shown, ['path' => 0]) + [
            'kind' => VersionRow::kind($file->version),
            'size' => $file->version->size,
            'mode' => sprintf('%04o', $file->version->mode),
            'mtime' => VersionRow::time($file->version->mtime),
        ] + VersionRow::extras($file->version);
    }

    /** @param  array<array-key, VolumeOfPoint>  $volumes */
    private static function volumes(string $point, array $volumes): Told
    {
        $rows = array_map(
            fn (VolumeOfPoint $volume): array => [
                'name' => $volume->name,
                'kind' => 'volume',
                'size' => $volume->partition->size(),
                'partition' => $volume->partition->name,
                'file_system' => $volume->files?->type(),
                'label' => mb_scrub($volume->files?->label() ?? ''),
                'because' => $volume->because,
            ],
            array_values($volumes),
        );

        return new Told(
            KaisekiCommand::DONE,
            ['point' => $point, 'path' => '/', 'entries' => $rows],
            fn (): array => array_map(
                fn (array $row): string => sprintf('%-20s %10s  %s', $row['name'], Words::size($row['size']),
                    $row['because'] ?? rtrim("{$row['file_system']} {$row['label']}")),
                $rows,
            ),
        );
    }
}
