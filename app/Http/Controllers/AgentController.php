<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Agents\Agent;
use App\Agents\AgentScript;
use App\Agents\AgentWorkload;
use App\Http\Requests\AgentRequest;
use App\Models\User;
use App\View\AgentsView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use InvalidArgumentException;

/** Machines that send their sets themselves: who they are, the file that one installs, and ending one. */
final class AgentController
{
    public function index(Request $request): View
    {
        $user = self::user($request);

        return view('agents', ['view' => new AgentsView($user), 'zone' => $user->zone]);
    }

    /** The file, to be taken away at once: nobody can be told its code again. */
    public function store(AgentRequest $request): Response|RedirectResponse
    {
        $user = self::user($request);
        try {
            $desk = AgentScript::checked($request->string('desk')->value());
            $group = $request->string('group')->value();
            $workload = AgentWorkload::named($request->string('name')->value(), $group === '' ? null : $group, by: $user);
        } catch (InvalidArgumentException $wrong) {
            return redirect('/agents')->withErrors(['agent' => $wrong->getMessage()])->withInput();
        }
        [, $code] = Agent::open($workload, $user);

        return response(AgentScript::of($workload->name, $desk, $code), 200, [
            'Content-Type' => 'application/x-sh',
            'Content-Disposition' => "attachment; filename=\"kaiseki-agent-{$workload->name}.sh\"",
            'Cache-Control' => 'no-store',
        ]);
    }

    public function update(Request $request, Agent $agent): RedirectResponse
    {
        $agent->revoke(self::user($request));

        return redirect('/agents')
            ->with('told', "Nothing is taken from that machine any more. Remove the agent from {$agent->workload->name}.");
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
