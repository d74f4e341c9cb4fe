<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Told;
use App\Models\Workload;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Trees\Catalog\CatalogChild;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\VersionRow;
use App\Trees\Run\PathInJson;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputInterface;

/** `browse` for files: from the catalog. */
final class BrowseTree
{
    public static function told(Workload $workload, InputInterface $input): Told
    {
        $at = Instant::parse(
            (string) ($input->getOption('at') ?? throw new InvalidArgumentException('Say with --at which moment is wanted.')),
        );
        $points = new Points($workload);
        // Looking needs the catalog only: also a point that cannot be given back whole can be looked into.
        $found = $points->find($at, new Demands(false, false));
        $last = $points->lastBefore($at);
        $point = $points->modelOf($found->set) ?? ($last === null ? null : $points->model($last));
        $point ?? throw CannotPlan::because('there is no point at or before that moment');
        $path = EntryPath::of((string) $input->getOption('path'));
        Selected::mustBeThere($points->workload, $point, $path);
        $reader = new CatalogReader;
        $children = [];
        for ($offset = 0; ($page = $reader->children($point, $path, 5000, $offset)) !== []; $offset += 5000) {
            $children = array_merge($children, $page);
        }
        [$files, $bytes] = $reader->total($point, $path);

        return new Told(
            KaisekiCommand::DONE,
            [
                'point' => $point->name,
                'path' => PathInJson::of('/'.$path)['path'],
                'files' => $files,
                'bytes' => $bytes,
                'entries' => array_map(self::row(...), $children),
            ],
            function () use ($children, $files, $bytes): iterable {
                foreach ($children as $child) {
                    yield sprintf(
                        '%s %04o %12s  %s  %s%s',
                        $child->version->kind->value,
                        $child->version->mode,
                        number_format($child->size()),
                        gmdate('Y-m-d H:i:s\Z', intdiv($child->version->mtime, 1_000_000_000)),
                        $child->name,
                        $child->isFolder() ? '/' : '',
                    );
                }
                yield Words::count($files, 'file').', '.Words::size($bytes).' below it.';
            },
        );
    }

    /** @return array<string, mixed> */
    private static function row(CatalogChild $child): array
    {
        $name = PathInJson::of($child->name);
        $row = ['name' => $name['path']] +
            array_diff_key($name, ['path' => 0]) + [
                'kind' => VersionRow::kind($child->version),
                'size' => $child->isFolder() ? $child->bytes : $child->version->size,
                'mode' => sprintf('%04o', $child->version->mode),
                'mtime' => VersionRow::time($child->version->mtime),
            ];

        return $child->isFolder()
            ? $row + ['files' => $child->files, 'bytes' => $child->bytes]
            : $row + VersionRow::extras($child->version);
    }
}
