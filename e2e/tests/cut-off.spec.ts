import { expect, expectAccessible, signIn, test } from './stack';

test.describe('While the server is away', () => {
  test('what was read stays, what is not is said, and all goes on when it is back', async ({
    page,
    stack,
    complaints,
  }) => {
    const alert = page.getByRole('alert');
    const tideline = page.getByRole('status', { name: 'Jobs' });
    const section = (name: string) => page.getByRole('navigation', { name: 'Sections' }).getByRole('link', { name });
    await signIn(page, stack, '/strongroom');
    await expect(page.getByRole('heading', { level: 1 })).toContainText(/Strongroom|kept cop/);
    await section('Courses').click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('courses on 5 instances');

    await stack.stopServer();
    await expect(tideline).toContainText('No word from Treenail since');
    await expect(page.getByRole('heading', { level: 1 })).toContainText('courses on 5 instances');
    // A section that was open before can be gone to, and says what it lacks.
    await section('Strongroom').click();
    await expect(alert).toContainText('Treenail does not answer');
    await expectAccessible(page);
    // One that was not is missed, and the person stays where they are.
    await section('Platforms').click();
    await expect(alert.filter({ hasText: 'This page did not come' })).toBeVisible();
    expect(new URL(page.url()).pathname).toBe('/strongroom');
    await expectAccessible(page);

    await stack.startServer();
    await expect(tideline).not.toContainText('No word from Treenail');
    // What did not come is asked for again by itself; a missed page only when a person says so.
    await expect(page.getByRole('button', { name: 'Ask again' })).toHaveCount(0);
    await page.getByRole('link', { name: 'Load it anew' }).click();
    await expect(page.getByRole('heading', { name: 'Term calendar' })).toBeVisible();
    expect(new URL(page.url()).pathname).toBe('/platforms');
    await expect(alert).toHaveCount(0);
    // While nobody answered the browser complained of that, and of nothing else.
    for (const complaint of complaints.splice(0))
      expect(complaint).toMatch(
        /net::ERR_(CONNECTION_(REFUSED|RESET|CLOSED)|EMPTY_RESPONSE|INCOMPLETE_CHUNKED_ENCODING)/,
      );
  });
});
