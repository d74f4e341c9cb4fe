@use('App\Words')
<h3 class="h6">As it started</h3>
<div class="booted mb-3">
    @if ($boot['stages'] !== [])
        <table class="list w-auto">
            <thead>
                <tr>
                    <th class="pe-4">Stage</th>
                    <th class="num">Seen after</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($boot['stages'] as $stage)
                    <tr>
                        <td class="pe-4">{{ $stage['stage'] }}</td>
                        <td class="num">{{ Words::duration($stage['ms'] / 1000) }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
    @endif
    @if ($boot['screen'] !== null)
        <img src="data:image/png;base64,{{ $boot['screen'] }}" alt="What was on its screen then">
    @endif
    @if (trim($boot['serial']) !== '')
        <details>
            <summary>What it said on its serial line</summary>
            <pre class="said">{{ $boot['serial'] }}</pre>
        </details>
    @endif
</div>
