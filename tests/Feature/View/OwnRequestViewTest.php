<?php

declare(strict_types=1);

use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\View\OwnRequestView;
use Tests\Support\Desk;

// A request as the person sees it who asked: in words, with nothing of the work on it, and with nothing that is not theirs to do.

beforeEach(function (): void {
    $this->desk = new Desk($this, fn ($a) => $a->put('roster', 'good'), fn ($a) => $a->put('later', 'x'));
    $this->asker = $this->desk->requester;
    $this->run = fn (array $as): Run => Run::query()->create($as + [
        'workload_id' => $this->desk->request->workload_id, 'request_id' => $this->desk->request->id, 'set_id' => $this->desk->set(0)->id,
        'state' => 'done', 'plan' => ['target' => '%2Ftmp', 'paths' => []], 'ended_at' => now(),
        'outcome' => ['right' => true, 'files' => 3, 'bytes' => 9, 'checks' => [['check' => 'c', 'result' => 'passed', 'detail' => 'd']]],
    ])->refresh();
    $this->view = fn (?User $as = null): OwnRequestView => new OwnRequestView($this->desk->request->refresh(), $as ?? $this->asker);
});

it('says how it stands', function (string $state, ?string $run, string $words): void {
    $this->desk->request->update(['state' => $state]);
    $run === null || ($this->run)(['state' => $run]);
    expect(($this->view)()->state())->toContain($words);
})->with([
    ['open', null, 'an operator works on it'],
    ['running', 'running', 'It is being brought back.'],
    ['running', 'failed', 'Somebody works on it.'],
    ['answer', 'done', 'say whether it is right'],
    ['closed', 'done', 'It is closed.'],
]);

it('says what came of it, right or not', function (array $as, string $words): void {
    $run = ($this->run)($as);
    expect(($this->view)()->came($run))->toContain($words);
})->with([
    'right' => [[], '3 files, 9 B came back, and all of it was found right.'],
    'not all right' => [['outcome' => ['right' => false, 'files' => 3, 'bytes' => 9]], 'not all of it is right'],
    'failed' => [['state' => 'failed', 'outcome' => null], 'did not end well'],
    'at work' => [['state' => 'running', 'outcome' => null], 'It is not there yet.'],
]);

it('shows what others did neither to look at nor to undo', function (): void {
    $run = ($this->run)([]);
    $view = ($this->view)();
    expect($view->found($run))->toBe([]) // of one's own orders only
        ->and($view->canPutBack($run))->toBeFalse()
        ->and($view->isMoving())->toBeFalse()
        ->and($view->waitsForYes())->toBeFalse()
        ->and($view->partOfKind($run))->toBeNull();
    ($this->run)(['state' => 'queued', 'ended_at' => null]);
    expect(($this->view)()->isMoving())->toBeTrue();
});

it('names the workload and its runs only to who sees its group', function (): void {
    ($this->run)([]);
    expect(($this->view)()->workload())->toBe('crew')->and(($this->view)()->run())->not->toBeNull();
    $this->asker->update(['workload_groups' => ['piers']]);
    expect(($this->view)($this->asker->refresh())->workload())->toBeNull()->and(($this->view)($this->asker)->run())->toBeNull();
    $other = $this->person(Role::Requester);
    expect(($this->view)($other)->run())->toBeNull();
});
