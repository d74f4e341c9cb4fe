<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\AdoptOrder;
use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Stores\ClosedFolder;
use App\Words;
use InvalidArgumentException;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Adopt extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('adopt')
            ->setDescription('Registers archives where they lie, and catalogs them')
            ->addArgument('folder', InputArgument::REQUIRED, 'the folder they lie in; it becomes a read-only store')
            ->addOption('as', null, InputOption::VALUE_REQUIRED, 'the workload they belong to')
            ->addOption(
                'kind',
                null,
                InputOption::VALUE_REQUIRED,
                'its kind: '.implode(', ', array_keys(Kinds::all())),
                Kinds::first()->name(),
            )
            ->addOption(
                'site',
                null,
                InputOption::VALUE_REQUIRED,
                'where the folder is, for a folder that is adopted for the first time',
                'boathouse',
            );
        $this->addOptionsOfKinds();
    }

    protected function kinds(ArgvInput $input): array
    {
        $kind = Kinds::all()[(string) $input->getParameterOption('--kind', Kinds::first()->name())] ?? null;

        return $kind === null ? array_values(Kinds::all()) : [$kind];
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $name =
            (string) ($input->getOption('as') ??
                throw new InvalidArgumentException('Say with --as=NAME which workload the archives belong to.'));
        $kind = self::kind((string) $input->getOption('kind'), $name);
        $adoption = $kind
            ->intake()
            ->adopt(
                new AdoptOrder(
                    self::folder((string) $input->getArgument('folder')),
                    $name,
                    (string) $input->getOption('site'),
                    $input->getOptions(),
                    fn (string $file, int $members) => $this->progress("$file: ".number_format($members).' members'),
                ),
            );
        $this->endProgress();
        foreach ($adoption->refused as $refused) {
            $this->say("{$refused->file} was not taken: {$refused->because}.");
        }
        if ($adoption->sets !== [] && ClosedFolder::isOpen((string) $input->getArgument('folder'))) {
            $this->say(
                'Others on this machine can read these archives. The folder is not ours to change: '.
                    'close it (chmod go-rwx) if they should not.',
            );
        }
        $this->answer(
            [
                'workload' => $name,
                'sets' => array_map(self::document(...), $adoption->sets),
                'refused' => RefusedFile::kept($adoption->refused),
            ],
            function () use ($adoption, $kind): iterable {
                foreach ($adoption->sets as $set) {
                    yield from self::lines($set, $kind->unit($set));
                }
                yield Words::count(count($adoption->sets), 'set').' registered, '.count($adoption->refused).' refused.';
            },
        );

        return $adoption->sets === [] ? self::WRONG_USE : self::DONE;
    }

    /** @return array<string, mixed> */
    private static function document(BackupSet $set): array
    {
        return [
            'set' => $set->name,
            'level' => $set->level,
            'captured_at' => $set->captured_at->format('Y-m-d\TH:i:s\Z'),
            'base' => $set->base?->name,
            'cataloged' => $set->cataloged,
            'entries' => $set->entries,
            'bytes' => $set->bytes,
            'remarks' => $set->remarks ?? [],
        ];
    }

    /** @return iterable<string> */
    private static function lines(BackupSet $set, string $unit): iterable
    {
        yield sprintf(
            '%-44s %-5s %s  %s, %s',
            $set->name,
            $set->level,
            $set->captured_at->format('Y-m-d H:i:s\Z'),
            Words::count($set->entries, $unit),
            Words::size($set->bytes),
        );
        foreach ($set->remarks ?? [] as $remark) {
            yield "    $remark";
        }
    }

    private static function kind(string $name, string $workload): Kind
    {
        $kind =
            Kinds::all()[$name] ??
            throw new InvalidArgumentException(
                "\"$name\" is not a kind of workload that can be adopted. The kinds are: ".implode(', ', array_keys(Kinds::all())).'.',
            );
        Workload::demandName($workload);
        $known = Workload::query()->where('name', $workload)->value('kind');
        if ($known !== null && $known !== $name) {
            throw new InvalidArgumentException(
                "$workload is a workload of the kind \"$known\": archives of the kind \"$name\" cannot belong to it.",
            );
        }

        return $kind;
    }

    private static function folder(string $folder): string
    {
        $root = realpath($folder);

        return $root !== false && is_dir($root) ? $root : throw new InvalidArgumentException("There is no folder \"$folder\".");
    }
}
