<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\Kinds\Databases\Order\Transactions;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class TransactionList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('transactions')
            ->setDescription('Lists what was committed, by the binary logs')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('from', null, InputOption::VALUE_REQUIRED, 'committed at this moment or later')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'committed at this moment or earlier')
            ->addOption('table', null, InputOption::VALUE_REQUIRED, 'about this table: TABLE or SCHEMA.TABLE')
            ->addOption('text', null, InputOption::VALUE_REQUIRED, 'with these words in its statement');
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $moment = fn (string $option): ?int => $input->getOption($option) === null
            ? null
            : intdiv(Instant::parse((string) $input->getOption($option))->microseconds, 1_000_000);
        $timeline = new Transactions($workload);
        $transactions = $timeline->all($moment('from'), $moment('to'), $input->getOption('table'), $input->getOption('text'));
        $breaks = array_map(fn (array $break): array => ['before' => $break[0], 'because' => $break[1]], $timeline->chain->breaks());
        foreach ($breaks as $break) {
            $this->say("Gap before {$break['before']}: {$break['because']}.");
        }
        if ($this->json) {
            $list = [];
            foreach ($transactions as $transaction) {
                $list[] = $transaction->toArray();
            }
            $this->answer(['workload' => $workload->name, 'transactions' => $list, 'gaps' => $breaks], fn (): array => []);

            return self::DONE;
        }
        $this->answer([], function () use ($transactions): iterable {
            foreach ($transactions as $one) {
                yield sprintf(
                    '%-14s %s:%-10d %s  %s%s',
                    $one->gtid,
                    $one->file,
                    $one->position,
                    $one->moment(),
                    self::tables($one),
                    $one->statement === '' ? '' : '  '.mb_strimwidth(preg_replace('/\s+/', ' ', $one->statement) ?? '', 0, 100, '…'),
                );
            }
        });

        return self::DONE;
    }

    private static function tables(LoggedTransaction $transaction): string
    {
        $words = [];
        foreach ($transaction->tables as $table) {
            $counts = array_filter(['+' => $table->inserted, '~' => $table->updated, '-' => $table->deleted]);
            $signed = array_map(fn (string $sign, int $rows): string => $sign.$rows, array_keys($counts), $counts);
            $words[] = $table->name().' '.implode(' ', $signed);
        }

        return ($transaction->isDefinition ? 'definition ' : '').implode(', ', array_map(trim(...), $words));
    }
}
