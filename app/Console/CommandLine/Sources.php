<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\NewSources;
use App\Care\UnprotectedSource;
use App\Words;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Sources extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('sources')
            ->setDescription('Lists hosts that nothing protects, and takes them up')
            ->addArgument('take', InputArgument::OPTIONAL | InputArgument::IS_ARRAY, 'those to be protected by the rule of their group')
            ->addOption('all', null, InputOption::VALUE_NONE, 'all of them');
    }

    protected function carryOut(InputInterface $input): int
    {
        $sources = new NewSources;
        /** @var list<string> $names */
        $names = $input->getOption('all') ? array_column($sources->found(), 'name') : $input->getArgument('take');
        $taken = $sources->takeUpAll($names, null);
        $left = $sources->found();
        $this->answer(
            [
                'taken' => $names,
                'unprotected' => array_map(fn (UnprotectedSource $one): array => [
                    'name' => $one->name, 'group' => $one->group, 'source' => $one->source, 'rule' => $one->hasRule,
                ], $left),
            ],
            function () use ($taken, $left): iterable {
                if ($taken > 0) {
                    yield Words::count($taken, 'source').' taken up.';
                }
                foreach ($left as $source) {
                    yield "{$source->name} (group {$source->group}) is not protected".
                        ($source->hasRule ? '; the rule of its group will take it up.' : ', and its group has no rule.');
                }
                if ($left === []) {
                    yield 'Every host that is known is protected.';
                }
            },
        );

        return self::DONE;
    }
}
