<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Files\Intake\Adoption;
use App\Models\BackupSet;
use App\Stores\ClosedFolder;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\ArchiveScan;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Adopt extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('adopt')->setDescription('Registers archives where they lie, and catalogs them')
            ->addArgument('folder', InputArgument::REQUIRED, 'the folder they lie in; it becomes a read-only store')
            ->addOption('as', null, InputOption::VALUE_REQUIRED, 'the workload they belong to')
            ->addOption('kind', null, InputOption::VALUE_REQUIRED, 'its kind: files, or database (dumps and binary logs of a MariaDB server)', 'files')
            ->addOption('pattern', null, InputOption::VALUE_REQUIRED, 'how their names are built, with {name}, {level}, {stamp} and {history} (default: '.Adoption::DEFAULT_PATTERN.', or .tar)')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where the folder is, for a folder that is adopted for the first time', 'boathouse')
            ->addOption('sheet', null, InputOption::VALUE_REQUIRED, 'a JSON list of file, level, captured_at, base, history instead')
            ->addOption('ratio', null, InputOption::VALUE_REQUIRED, 'how many times its size a gzipped archive may unpack to, before it is taken for one that is made to do harm', (string) ArchiveScan::MOST_TIMES);
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) ($input->getOption('as') ?? throw new InvalidArgumentException('Say with --as=NAME which workload the archives belong to.'));
        $adoption = new Adoption;
        $adoption->adopt(
            (string) $input->getArgument('folder'), $name, (string) $input->getOption('kind'), $input->getOption('pattern'), $input->getOption('sheet'), (string) $input->getOption('site'),
            fn (string $file, int $members) => $this->progress("$file: ".number_format($members).' members'), max(1, (int) $input->getOption('ratio')),
        );
        $this->endProgress();
        foreach ($adoption->refused as $refused) {
            $this->say("{$refused['file']} was not taken: {$refused['because']}.");
        }
        if ($adoption->sets !== [] && ClosedFolder::isOpen((string) $input->getArgument('folder'))) {
            $this->say('Others on this machine can read these archives. The folder is not ours to change: '
                .'close it (chmod go-rwx) if they should not.');
        }
        $this->answer([
            'workload' => $name,
            'sets' => array_map(fn (BackupSet $set): array => [
                'set' => $set->name, 'level' => $set->level, 'captured_at' => $set->captured_at->format('Y-m-d\TH:i:s\Z'), 'base' => $set->base?->name,
                'cataloged' => $set->cataloged, 'entries' => $set->entries, 'bytes' => $set->bytes, 'remarks' => $set->remarks ?? [],
            ], $adoption->sets),
            'refused' => array_map(fn (array $refused): array => ['file' => mb_scrub($refused['file']), 'because' => mb_scrub($refused['because'])], $adoption->refused),
        ], function () use ($adoption): iterable {
            foreach ($adoption->sets as $set) {
                yield sprintf('%-44s %-5s %s  %s, %s', $set->name, $set->level, $set->captured_at->format('Y-m-d H:i:s\Z'), Words::count($set->entries, ...($set->database === null ? ['member'] : ($set->level === 'log' ? ['transaction'] : ['table']))), Words::size($set->bytes));
                foreach ($set->remarks ?? [] as $remark) {
                    yield "    $remark";
                }
            }
            yield Words::count(count($adoption->sets), 'set').' registered, '.count($adoption->refused).' refused.';
        });

        return $adoption->sets === [] ? self::WRONG_USE : self::DONE;
    }
}
