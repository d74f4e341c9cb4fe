<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\KeepRules;
use stdClass;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Keep extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('keep')
            ->setDescription('Says what of a workload is kept; what no rule keeps can expire. Without a rule: shows them')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument(
                'rule',
                InputArgument::OPTIONAL,
                'such as "last=7 daily=14 weekly=8 monthly=12 within=30d"; none: everything is kept',
            )
            ->addOption(
                'store',
                null,
                InputOption::VALUE_REQUIRED,
                'only for copies on this store; else for all that have no rule of their own',
            )
            ->addOption('every-night', null, InputOption::VALUE_NONE, 'what expires is deleted by itself')
            ->addOption('delete-everything', null, InputOption::VALUE_NONE, 'a rule that keeps nothing is meant');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $text = $input->getArgument('rule');
        $store = $input->getOption('store') === null ? null : self::knownStore((string) $input->getOption('store'));
        if ($text !== null) {
            $text === 'none' || self::refuseMarked($workload, 'keeping less of it');
            KeepRules::settle(
                $workload,
                $store,
                (string) $text,
                (bool) $input->getOption('every-night'),
                (bool) $input->getOption('delete-everything'),
            );
        }
        $rules = KeepRules::of($workload)
            ->map(fn (stdClass $row): array => ['store' => $row->store, 'rule' => $row->rule, 'every_night' => (bool) $row->every_night])
            ->all();
        $this->answer(
            ['workload' => $workload->name, 'rules' => $rules],
            fn (): array => $rules === []
                ? ["Everything of {$workload->name} is kept."]
                : array_map(
                    fn (array $rule): string => ($rule['store'] ?? 'all other stores').
                        ': '.
                        ($rule['rule'] === '' ? 'nothing' : $rule['rule']).
                        ($rule['every_night'] ? ', every night' : ''),
                    $rules,
                ),
        );

        return self::DONE;
    }
}
