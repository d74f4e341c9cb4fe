<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\MailboxNames;
use App\Kinds\Items\Own\GivenMailbox;
use App\Kinds\Items\Own\OwnRule;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `own-items`: of what people bring back their own themselves, and whose a mailbox is that does not bear their address. */
final class OwnItemsCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $value = InputOption::VALUE_REQUIRED;
        $this->setName('own-items')
            ->setDescription('Lets people bring back what is in their own mailbox themselves')
            ->addArgument('what', InputArgument::REQUIRED, 'allow, end, give, take, or list')
            ->addArgument('name', InputArgument::OPTIONAL, 'whose mailboxes')
            ->addOption('most', null, $value, 'allow: items in one order', (string) OwnRule::ITEMS)
            ->addOption('mb', null, $value, 'allow: megabytes in one order', (string) OwnRule::MB)
            ->addOption('person', null, $value, 'give, take: the address by which they sign in')
            ->addOption('mailbox', null, $value, 'give, take: one that bears another name than that address, as the sets have it');
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'allow' => $this->allow($input),
            'end' => $this->end($input),
            'give' => $this->give($input, true),
            'take' => $this->give($input, false),
            default => throw new InvalidArgumentException('It is "own-items allow", "end", "give", "take" or "list".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $rules = OwnRule::query()->with('workload')->get()->sortBy('workload.name')->values();
        $given = GivenMailbox::query()->with('workload', 'user')->orderBy('mailbox')->get();
        $this->answer(
            [
                'rules' => $rules->map(fn (OwnRule $rule): array => [
                    'workload' => $rule->workload->name, 'most_items' => $rule->most_items, 'most_mb' => $rule->most_mb,
                ])->all(),
                'mailboxes' => $given->map(fn (GivenMailbox $one): array => [
                    'workload' => $one->workload->name, 'mailbox' => $one->mailbox, 'person' => $one->user->email,
                ])->all(),
            ],
            fn (): array => [
                ...$rules->isEmpty() ? ['Nobody brings back their own themselves.'] : [],
                ...$rules->map(fn (OwnRule $rule): string => "{$rule->workload->name}: {$rule->words()}")->all(),
                ...$given->map(fn (GivenMailbox $one): string => "{$one->mailbox} of {$one->workload->name} is {$one->user->email}’s too")
                    ->all(),
            ],
        );
    }

    private function allow(InputInterface $input): void
    {
        $rule = OwnRule::settle($this->ofItems($input), self::number($input, 'most'), self::number($input, 'mb'), null);
        $this->answer(
            ['workload' => $rule->workload->name, 'most_items' => $rule->most_items, 'most_mb' => $rule->most_mb],
            fn (): array => ["People bring back what is their own of {$rule->workload->name} themselves: {$rule->words()}."],
        );
    }

    private function end(InputInterface $input): void
    {
        $workload = $this->ofItems($input);
        OwnRule::end($workload, null);
        $this->answer(['workload' => $workload->name], fn (): array => ["Only the desk brings back what is of {$workload->name}."]);
    }

    private function give(InputInterface $input, bool $isGiven): void
    {
        $workload = $this->ofItems($input);
        $mailbox = (string) $input->getOption('mailbox');
        $person = User::query()->where('email', (string) $input->getOption('person'))->first() ??
            throw new InvalidArgumentException('Say with --person whose it is: an address by which somebody signs in.');
        if (! MailboxNames::has($workload->id, $mailbox)) {
            throw new InvalidArgumentException("There is no mailbox \"$mailbox\" in the sets of {$workload->name}; \"browse\" lists them.");
        }
        $one = ['workload_id' => $workload->id, 'user_id' => $person->id, 'mailbox' => $mailbox];
        $isGiven ? GivenMailbox::query()->firstOrCreate($one) : GivenMailbox::query()->where($one)->delete();
        $told = "The mailbox $mailbox of {$workload->name} is ".($isGiven ? "{$person->name}’s too." : "not {$person->name}’s any more.");
        TrailEntry::add($told, null, null, sort: TrailSort::Rule, workload: $workload);
        $this->answer(['workload' => $workload->name, 'mailbox' => $mailbox, 'person' => $person->email], fn (): array => [$told]);
    }

    private function ofItems(InputInterface $input): Workload
    {
        if ($input->getArgument('name') === null) {
            throw new InvalidArgumentException('Say of which workload: "own-items allow NAME".');
        }

        return $this->workload($input);
    }

    private static function number(InputInterface $input, string $option): int
    {
        $said = (string) $input->getOption($option);

        return preg_match('/^\d{1,9}$/D', $said) === 1 ? (int) $said : throw new InvalidArgumentException("--$option is a number.");
    }
}
