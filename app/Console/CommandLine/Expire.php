<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\ExpiringCopy;
use App\Care\Expiry;
use App\Words;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Expire extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('expire')
            ->setDescription('Shows what the rules for keeping no longer keep; with --yes deletes it')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('yes', null, InputOption::VALUE_NONE, 'delete it')
            ->addOption('delete-everything', null, InputOption::VALUE_NONE, 'that no set would be left is meant');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $expiry = new Expiry($this->workload($input));
        $lines = $expiry->lines();
        $done = null;
        if ($input->getOption('yes')) {
            self::refuseMarked($expiry->workload, 'deleting its sets');
            $done = $expiry->carryOut(null, (bool) $input->getOption('delete-everything'));
        }
        $this->answer(
            [
                'expiring' => array_map(
                    fn (ExpiringCopy $line): array => ['set' => $line->set, 'store' => $line->store, 'bytes' => $line->bytes],
                    $lines,
                ),
                'bytes' => (int) array_sum(array_column($lines, 'bytes')),
                'sets_gone' => $expiry->plan->goneSets(),
                'staying' => $expiry->plan->staying,
                'done' => $done,
            ],
            function () use ($expiry, $lines, $done): iterable {
                if (! $expiry->hasRules()) {
                    yield "No rule says what of {$expiry->workload->name} may expire, so everything stays.";
                }
                foreach ($lines as $line) {
                    yield "{$line->set} on {$line->store}, ".Words::size($line->bytes);
                }
                yield $lines === []
                    ? 'Nothing expires.'
                    : ($done === null ? 'This would free ' : 'This freed ').
                        Words::size($done->bytes ?? (int) array_sum(array_column($lines, 'bytes'))).
                        ($done === null ? '; --yes deletes it.' : '.');
                foreach ($done->failed ?? [] as $failed) {
                    yield "  not deleted: $failed";
                }
            },
        );

        return ($done->failed ?? []) === [] ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
