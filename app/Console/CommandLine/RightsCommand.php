<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Targets;
use App\Models\Right;
use App\Models\Role;
use App\Models\Target;
use App\Models\TargetRight;
use App\Models\User;
use App\Rights\Reached;
use App\Rights\RightsBook;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class RightsCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('rights')
            ->setDescription('Says, or changes, who may read from, write to and tend which target')
            ->addArgument('what', InputArgument::REQUIRED, 'list, of (a target), person, give, or take')
            ->addArgument('whom', InputArgument::OPTIONAL, 'a target, such as host:crew, or the address of a person')
            ->addOption('group', null, InputOption::VALUE_REQUIRED, 'for give and take: who sees this group')
            ->addOption('role', null, InputOption::VALUE_REQUIRED, 'for give and take: operator or approver', 'operator')
            ->addOption('may', null, InputOption::VALUE_REQUIRED, 'for give: of read, write and tend, with commas between', '');
    }

    protected function carryOut(InputInterface $input): int
    {
        $whom = $input->getArgument('whom');
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'of' => $this->of(Targets::named(self::said($whom, 'a target'))),
            'person' => $this->person(self::said($whom, 'the address of a person')),
            'give' => $this->settle($input, Targets::named(self::said($whom, 'a target')), self::may($input)),
            'take' => $this->settle($input, Targets::named(self::said($whom, 'a target')), null),
            default => throw new InvalidArgumentException('It is "rights list", "of", "person", "give" or "take".'),
        };

        return self::DONE;
    }

    private static function said(?string $whom, string $what): string
    {
        return $whom ?? throw new InvalidArgumentException("Name $what.");
    }

    private function list(): void
    {
        $rules = TargetRight::byTarget();
        $targets = array_map(
            fn (Target $target): array => self::document($target) + [
                'rules' => array_map(fn (TargetRight $rule): string => $rule->words(), $rules[TargetRight::key($target)] ?? []),
            ],
            Targets::all(),
        );
        $this->answer(['targets' => $targets], function () use ($targets): iterable {
            foreach ($targets as $target) {
                yield "{$target['target']}  {$target['where']}".($target['rules'] === [] ? '  nobody: it belongs to no group' : '');
                foreach ($target['rules'] as $rule) {
                    yield "  $rule";
                }
            }
        });
    }

    private function of(Target $target): void
    {
        $people = Reached::people($target);
        $this->answer(
            self::document($target) + [
                'people' => array_map(
                    fn (Reached $reached): array => [
                        'person' => $reached->person->email, 'may' => $reached->may(), 'because' => $reached->because(),
                    ],
                    $people,
                ),
            ],
            fn (): array => $people === []
                ? ['Nobody reaches it: no order can name it.']
                : array_map(
                    fn (Reached $reached): string => "{$reached->person->email}: {$reached->may()} ({$reached->because()})",
                    $people,
                ),
        );
    }

    private function person(string $email): void
    {
        $person = User::query()->where('email', $email)->first() ?? throw new InvalidArgumentException("Nobody signs in as $email.");
        $reached = Reached::targets($person, Targets::all());
        $this->answer(
            [
                'person' => $person->email, 'role' => $person->role->value,
                'groups' => $person->seesAllGroups() ? 'all' : $person->groups(),
                'targets' => array_map(
                    fn (Reached $one): array => self::document($one->target) + ['may' => $one->may(), 'because' => $one->because()],
                    $reached,
                ),
            ],
            fn (): array => $reached === []
                ? ["$email reaches no target."]
                : array_map(
                    fn (Reached $one): string => $one->target::sort().":{$one->target->name()}: {$one->may()} ({$one->because()})",
                    $reached,
                ),
        );
    }

    /** @param  list<Right>|null  $rights */
    private function settle(InputInterface $input, Target $target, ?array $rights): void
    {
        $group = (string) ($input->getOption('group') ?? throw new InvalidArgumentException('Say with --group whom it is about.'));
        $role = Role::tryFrom((string) $input->getOption('role')) ?? throw new InvalidArgumentException('--role is operator or approver.');
        $told = RightsBook::settle($target, $group, $role, $rights, null);
        $this->answer(
            self::document($target) + [
                'group' => $group, 'role' => $role->value,
                'may' => $rights === null ? null : array_map(fn (Right $right): string => $right->value, $rights),
            ],
            fn (): array => [$told],
        );
    }

    /** @return list<Right> */
    private static function may(InputInterface $input): array
    {
        $said = array_filter(explode(',', (string) $input->getOption('may')), fn (string $word): bool => $word !== '');

        return array_values(
            array_map(
                fn (string $word): Right => Right::tryFrom($word) ??
                    throw new InvalidArgumentException("\"$word\" is no right: they are read, write and tend."),
                $said,
            ),
        );
    }

    /** @return array<string, mixed> */
    private static function document(Target $target): array
    {
        return ['target' => $target::sort().":{$target->name()}", 'where' => $target->whereabouts()];
    }
}
