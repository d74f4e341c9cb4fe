<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Hosts\Walls;
use App\Trail\TrailCheck;
use App\Trail\TrailRule;
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
            ->addArgument('what', InputArgument::REQUIRED, 'check, or keep')
            ->addArgument('days', InputArgument::OPTIONAL, 'with keep: how many days, or "forever"; without it, what is settled');
    }

    protected function carryOut(InputInterface $input): int
    {
        return match ($input->getArgument('what')) {
            'check' => $this->check(),
            'keep' => $this->keep($input->getArgument('days')),
            default => throw new InvalidArgumentException('It is "trail check" or "trail keep".'),
        };
    }

    private function keep(?string $days): int
    {
        if ($days !== null) {
            $settled = TrailRule::parse($days);
            if (! Walls::stand()) {
                TrailRule::settle($settled);
            } elseif (TrailRule::days() !== $settled) {
                throw new InvalidArgumentException('Only root settles how long the trail is kept.');
            } else {
                TrailRule::tell($settled);
            }
        }
        $now = TrailRule::days();
        $this->answer(['days' => $now], fn (): array => ['The trail is kept '.TrailRule::words($now).'.']);

        return self::DONE;
    }

    private function check(): int
    {
        $check = TrailCheck::whole();
        $this->answer(
            [
                'right' => $check->wrong === 0,
                'entries' => $check->entries,
                'not_sealed_yet' => $check->unsealed,
                'expired' => $check->expired,
                'signed_days' => $check->days,
                'wrong' => $check->wrong,
                'problems' => $check->problems,
            ],
            fn (): array => [
                Words::count($check->entries, 'entry', 'entries').' are sealed, '.$check->unsealed.' not yet; '.
                    Words::count($check->days, 'signed day').' compared.',
                ...$check->expired === 0 ? [] : [Words::count($check->expired, 'entry', 'entries').' went by the rule of "trail keep".'],
                ...$check->problems,
                ...$check->wrong > count($check->problems) ? ['and '.($check->wrong - count($check->problems)).' more.'] : [],
                ...$check->wrong === 0 ? ['All is as it was sealed.'] : [],
            ],
        );

        return $check->wrong === 0 ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
