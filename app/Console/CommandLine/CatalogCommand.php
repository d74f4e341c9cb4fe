<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\CatalogExport;
use App\Care\NightKit;
use App\Care\Rebuild;
use App\Jobs\ReckonStanding;
use App\Kinds\RefusedFile;
use App\Models\Workload;
use App\Trees\Run\Targets;
use App\Words;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CatalogCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('catalog')
            ->setDescription('Rebuilds the catalog from the media, or writes it to plain files and takes it from there')
            ->addArgument('what', InputArgument::REQUIRED, 'rebuild, export, import, or night-kit to write that now')
            ->addArgument('folder', InputArgument::OPTIONAL, 'for export and import')
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'for rebuild: the store whose sets are taken in')
            ->addOption('workload', null, InputOption::VALUE_REQUIRED, 'for rebuild: only this one')
            ->addOption('read-archives', null, InputOption::VALUE_NONE, 'for rebuild: do not believe the manifests');
    }

    protected function carryOut(InputInterface $input): int
    {
        return match ($input->getArgument('what')) {
            'rebuild' => $this->rebuild($input),
            'export' => $this->export($this->folder($input)),
            'import' => $this->import($this->folder($input)),
            'night-kit' => $this->nightKit(),
            default => throw new InvalidArgumentException('Say what: rebuild, export, import or night-kit.'),
        };
    }

    private function rebuild(InputInterface $input): int
    {
        $store = self::knownStore((string) $input->getOption('store'));
        $rebuild = new Rebuild($store, (bool) $input->getOption('read-archives'), fn (string $set) => $this->progress($set));
        $rebuild->run($input->getOption('workload') === null ? null : (string) $input->getOption('workload'));
        $this->endProgress();
        $names = array_unique(array_column($rebuild->sets, 'workload'));
        ReckonStanding::begin(...array_map(intval(...), Workload::query()->whereIn('name', $names)->pluck('id')->all()));
        $from = array_count_values(array_column($rebuild->sets, 'from')) + ['manifest' => 0, 'archive' => 0, 'known' => 0];
        $document = ['sets' => $rebuild->sets, 'problems' => RefusedFile::kept($rebuild->problems)];
        $this->answer($document, function () use ($rebuild, $from): iterable {
            yield sprintf(
                '%s: %d by their manifests, %d from the archives, %d were known.',
                Words::count(count($rebuild->sets), 'set'),
                $from['manifest'],
                $from['archive'],
                $from['known'],
            );
            foreach ($rebuild->problems as $problem) {
                yield "  {$problem->file}: {$problem->because}";
            }
        });

        return $rebuild->sets === [] && $rebuild->problems !== [] ? self::NOT_ALL_RIGHT : self::DONE;
    }

    private function export(string $folder): int
    {
        $bytes = (new CatalogExport)->write($folder);
        $this->answer(
            ['folder' => $folder, 'bytes' => $bytes],
            fn (): array => ["The catalog is in $folder, ".Words::size($bytes).'; b2sum --length=256 --check catalog.b2sum checks it.'],
        );

        return self::DONE;
    }

    private function import(string $folder): int
    {
        $rows = (new CatalogExport)->read($folder);
        $this->answer(['rows' => $rows], fn (): array => [Words::count($rows, 'row').' taken in.']);

        return self::DONE;
    }

    private function nightKit(): int
    {
        $stores = (new NightKit)->write();
        $this->answer(
            ['stores' => $stores],
            fn (): array => [
                $stores === [] ? 'There is no store of ours that could hold it.' : 'The night kit is on '.implode(', ', $stores).'.',
            ],
        );

        return $stores === [] ? self::BLOCKED : self::DONE;
    }

    private function folder(InputInterface $input): string
    {
        return Targets::absolute((string) ($input->getArgument('folder') ?? throw new InvalidArgumentException('Name the folder.')));
    }
}
