<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Models\Run;
use App\Runs\SetAsides;
use Carbon\CarbonImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class SetAsideCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('set-aside')
            ->setDescription('Lists what runs replaced and is still kept; keeps it longer, or removes it')
            ->addArgument('run', InputArgument::OPTIONAL, 'the number of a run')
            ->addOption('until', null, InputOption::VALUE_REQUIRED, 'keep it until this moment')
            ->addOption('remove', null, InputOption::VALUE_NONE, 'remove it now: the run can not be put back after that');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = $input->getArgument('run');
        if ($number !== null) {
            $run = SetAsides::kept()->find((int) $number) ?? throw new InvalidArgumentException("Nothing is kept of a run $number.");
            match (true) {
                (bool) $input->getOption('remove') => self::remove($run),
                $input->getOption('until') !== null => SetAsides::keepUntil(
                    $run,
                    CarbonImmutable::instance(Instant::parse((string) $input->getOption('until'))->in()),
                ),
                default => throw new InvalidArgumentException('Say --until=MOMENT or --remove.'),
            };
        }
        $kept = SetAsides::kept()->get();
        $this->answer(['set_asides' => $kept->map(fn (Run $run): array => self::row($run))->values()->all()], function () use (
            $kept,
        ): iterable {
            foreach ($kept as $run) {
                $until = $run->set_aside_until?->format('Y-m-d H:i\Z');
                yield "run {$run->id} of {$run->workload->name}, until $until: ".$run->sentence('UTC');
            }
            if ($kept->isEmpty()) {
                yield 'Nothing is set aside.';
            }
        });

        return self::DONE;
    }

    private static function remove(Run $run): void
    {
        $marked = $run->marked();
        $marked === null || self::refuseMarked($marked, 'removing what a run replaced');
        SetAsides::clear($run);
    }

    /** @return array<string, mixed> */
    private static function row(Run $run): array
    {
        return [
            'run' => $run->id,
            'workload' => $run->workload->name,
            'things' => $run->outcome['set_aside'] ?? 0,
            'until' => $run->set_aside_until?->toIso8601ZuluString(),
            'order' => $run->sentence('UTC'),
        ];
    }
}
