<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Trees\Doubt\BadContentList;
use App\Words;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

final class BadContents extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('bad-contents')
            ->setDescription('Takes a list of digests of harmful contents, and looks for them in all sets')
            ->addArgument(
                'list',
                InputArgument::REQUIRED,
                'a file as b2sum --length=256 writes it: a digest on each line, and a name behind it if you like',
            );
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $file = (string) $input->getArgument('list');
        $lines = @file($file, FILE_IGNORE_NEW_LINES | FILE_SKIP_EMPTY_LINES);
        if ($lines === false) {
            throw new InvalidArgumentException("The list \"$file\" cannot be read.");
        }
        [$taken, $found] = (new BadContentList)->take($lines);
        $this->answer(
            ['taken' => $taken, 'found' => $found],
            fn (): array => [
                Words::count($taken, 'digest').
                ' taken; '.
                ($found === [] ? 'none of them is in any set.' : 'found: '.implode(', ', $found).'.'),
            ],
        );

        return self::DONE;
    }
}
