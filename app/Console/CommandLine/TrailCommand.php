<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Trail\TrailCheck;
use App\Words;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

final class TrailCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('trail')
            ->setDescription('Finds whether an entry of the trail was changed, left out, added or put elsewhere since it was sealed')
            ->addArgument('what', InputArgument::REQUIRED, 'check');
    }

    protected function carryOut(InputInterface $input): int
    {
        if ($input->getArgument('what') !== 'check') {
            throw new InvalidArgumentException('It is "trail check".');
        }
        $check = TrailCheck::whole();
        $this->answer(
            [
                'right' => $check->wrong === 0,
                'entries' => $check->entries,
                'not_sealed_yet' => $check->unsealed,
                'signed_days' => $check->days,
                'wrong' => $check->wrong,
                'problems' => $check->problems,
            ],
            fn (): array => [
                Words::count($check->entries, 'entry', 'entries').' are sealed, '.$check->unsealed.' not yet; '.
                    Words::count($check->days, 'signed day').' compared.',
                ...$check->problems,
                ...$check->wrong > count($check->problems) ? ['and '.($check->wrong - count($check->problems)).' more.'] : [],
                ...$check->wrong === 0 ? ['All is as it was sealed.'] : [],
            ],
        );

        return $check->wrong === 0 ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
