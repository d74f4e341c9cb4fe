<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Models\SetSign;
use App\Models\Verdict;
use App\Words;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class SignList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('signs')
            ->setDescription('Lists what speaks for damage in the source before it was backed up, set by set, and what else is unusual')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('set', null, InputOption::VALUE_REQUIRED, 'only of this set');
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $named = $input->getOption('set');
        $sets = $named !== null ? collect([self::knownSet($workload, (string) $named)]) : $workload->sets()->orderBy('instant')->get();
        $signs = SetSign::query()->whereIn('set_id', $sets->pluck('id'))->orderByDesc('doubts')->orderBy('id')->get()->groupBy('set_id');
        $verdicts = Verdict::query()->whereIn('set_id', $sets->pluck('id'))->orderBy('id')->get()->keyBy('set_id');
        $rows = [];
        foreach ($sets as $set) {
            $own = $signs[$set->id] ?? collect();
            if ($named !== null || $set->in_doubt || $own->isNotEmpty() || isset($verdicts[$set->id])) {
                $rows[] = [
                    'set' => $set->name,
                    'in_doubt' => $set->in_doubt,
                    'doubtful_files' => $set->doubtful,
                    'measures' => $set->measures,
                    'signs' => $own
                        ->map(
                            fn (SetSign $sign): array => [
                                'kind' => $sign->kind,
                                'doubts' => $sign->doubts,
                                'words' => $sign->words,
                                'figures' => $sign->figures,
                            ],
                        )
                        ->values()
                        ->all(),
                    'verdict' => isset($verdicts[$set->id])
                        ? ['verdict' => $verdicts[$set->id]->verdict, 'reason' => $verdicts[$set->id]->reason]
                        : null,
                ];
            }
        }
        $this->answer(['sets' => $rows], function () use ($rows): iterable {
            foreach ($rows as $row) {
                yield $row['set'].
                    ($row['in_doubt']
                        ? ': in doubt'.($row['doubtful_files'] > 0 ? ', '.Words::count($row['doubtful_files'], 'file') : '')
                        : '');
                foreach ($row['signs'] as $sign) {
                    yield ($sign['doubts'] ? '  doubt: ' : '  to know: ').$sign['words'];
                }
                if ($row['verdict'] !== null) {
                    yield "  judged {$row['verdict']['verdict']}: {$row['verdict']['reason']}";
                }
            }
            if ($rows === []) {
                yield 'Nothing is unusual.';
            }
        });

        return self::DONE;
    }
}
